// The program's device with everything that textures share.
#pragma once

#include <memory>

#include <yl/vulkan.hpp>
#include "upload/device_texture.hpp"
#include "upload/vulkan/barriers.hpp"
#include "upload/vulkan/handle.hpp"
#include "upload/vulkan/memory_pool.hpp"
#include "upload/vulkan/sampler_cache.hpp"
#include "upload/vulkan/staging.hpp"

namespace yl::vulkan {

struct ImageParts;
class SharedSampler;

struct Context {
    DeviceHandles handles = {};
    DeviceOptions options = {};
    Functions vk = {};
    DeviceProfile profile = {};
    std::unique_ptr<MemoryPool> pool = {};  ///< null when the program has an allocator
    std::unique_ptr<SamplerCache> samplers = {};
    std::unique_ptr<StagingRing> staging = {};
    DeferredRelease released;

    explicit Context(const DeviceOptions& how) : options(how), released(how.frames_in_flight) {}
    Context(const Context&) = delete;
    Context& operator=(const Context&) = delete;
    ~Context();

    [[nodiscard]] VkPipelineStageFlags readers() const { return reading_stages(handles.features); }
    /// Whether copies go through a queue of their own, be it of the same family.
    [[nodiscard]] bool has_two_queues() const {
        return handles.transfer_queue != VK_NULL_HANDLE && handles.transfer_queue != handles.queue;
    }
    [[nodiscard]] bool has_two_families() const {
        return has_two_queues() && handles.transfer_family != handles.queue_family;
    }
    [[nodiscard]] VkDevice device() const { return handles.device; }
    [[nodiscard]] Result<MemoryPiece> take_memory(const VkMemoryRequirements& wanted,
                                                  VkMemoryPropertyFlags properties);
    void give_back(const MemoryPiece& piece);
    void set_label(VkObjectType type, std::uint64_t object, const std::string& label) const;
};

/// Memory that goes back at the end of its scope.
class OwnedMemory {
 public:
    OwnedMemory() = default;
    OwnedMemory(Context& context, const MemoryPiece& piece) : context_(&context), piece_(piece) {}
    OwnedMemory(OwnedMemory&& other) noexcept { *this = std::move(other); }
    OwnedMemory& operator=(OwnedMemory&& other) noexcept {
        std::swap(context_, other.context_);
        std::swap(piece_, other.piece_);
        return *this;
    }
    OwnedMemory(const OwnedMemory&) = delete;
    OwnedMemory& operator=(const OwnedMemory&) = delete;
    ~OwnedMemory() {
        if (context_ != nullptr)
            context_->give_back(piece_);
    }
    [[nodiscard]] const MemoryPiece& get() const { return piece_; }

 private:
    Context* context_ = nullptr;
    MemoryPiece piece_ = {};
};

/// A buffer in memory that the host sees, mapped.
struct HostBuffer {
    OwnedMemory memory = {};
    BufferHandle buffer = {};  ///< goes before its memory
    VkDeviceSize bytes = 0;

    [[nodiscard]] static Result<HostBuffer> create(Context& context, VkDeviceSize bytes,
                                                   VkBufferUsageFlags usage);
    [[nodiscard]] std::span<std::byte> contents() const {
        return {static_cast<std::byte*>(memory.get().mapped), bytes};
    }
};

}  // namespace yl::vulkan
