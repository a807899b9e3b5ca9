// The program's device with everything that textures share.
#pragma once

#include <memory>

#include <yl/d3d12.hpp>
#include "upload/d3d12/com.hpp"
#include "upload/d3d12/heap_pool.hpp"
#include "upload/d3d12/staging.hpp"
#include "upload/device_texture.hpp"

namespace yl::d3d12 {

struct Context {
    DeviceHandles handles = {};
    DeviceOptions options = {};
    DeviceProfile profile = {};
    std::shared_ptr<HeapPool> heaps = {};
    std::unique_ptr<StagingRing> staging = {};
    DeferredRelease released;

    explicit Context(const DeviceOptions& how) : options(how), released(how.frames_in_flight) {}
    Context(const Context&) = delete;
    Context& operator=(const Context&) = delete;
    ~Context();

    /// Whether copies go through a queue of their own.
    [[nodiscard]] bool has_two_queues() const { return handles.copy_queue != nullptr; }
    [[nodiscard]] ID3D12Device* device() const { return handles.device; }
};

/// A buffer in memory that the host sees, mapped for as long as it lives.
struct HostBuffer {
    Owned<ID3D12Resource> resource = {};
    std::byte* mapped = nullptr;
    std::uint64_t bytes = 0;

    /// `type` is UPLOAD or READBACK.
    [[nodiscard]] static Result<HostBuffer> create(ID3D12Device* device, std::uint64_t bytes,
                                                   D3D12_HEAP_TYPE type);
    [[nodiscard]] std::span<std::byte> contents() const { return {mapped, bytes}; }
};

}  // namespace yl::d3d12
