// Textures on Direct3D 12. Needs YellowLattice::d3d12. The program provides device and queue; the
// library releases everything that it creates.
//
//     yl::d3d12::Device device = yl::or_exit(yl::d3d12::Device::open(direct3d));
//     yl::d3d12::GpuTexture leaf = yl::or_exit(device.upload(texture));
//     leaf.write_view(view_place);        // descriptors in the program's heaps
//     leaf.write_sampler(sampler_place);
#pragma once

#ifndef NOMINMAX
#define NOMINMAX
#endif
#ifdef _WIN32
#include <d3d12.h>
#else
// The same interfaces on Vulkan, by libvkd3d.
#ifndef WIDL_EXPLICIT_AGGREGATE_RETURNS
#define WIDL_EXPLICIT_AGGREGATE_RETURNS
#endif
#include <vkd3d_windows.h>

#include <vkd3d_d3d12.h>
#endif

#include <functional>
#include <memory>
#include <string>
#include <yl/api.hpp>
#include <yl/upload.hpp>

namespace yl::d3d12 {

struct Context;  // the program's device with what textures share; src/upload/d3d12/context.hpp

/// Makes a texture's resource in the state COMMON in memory of the program's own, such as a placed
/// resource of its heaps. The library releases it once. Fails with `ErrorKind::memory`.
using MakeResource = std::function<Result<ID3D12Resource*>(const D3D12_RESOURCE_DESC& desc)>;

/// The program's device. The interfaces must outlive everything created with them.
struct DeviceHandles {
    ID3D12Device* device = nullptr;
    ID3D12CommandQueue* queue = nullptr;  ///< of the type DIRECT, which samples textures
    /// Of the type COPY: if set, copies go through it, and the other queue waits for its fence.
    ID3D12CommandQueue* copy_queue = nullptr;
    std::string name = {};            ///< of the adapter, for people
    MakeResource make_resource = {};  ///< by default the library's own heaps
};

struct DeviceOptions {
    std::uint64_t staging_budget = 8U << 20;  ///< bytes of each of the two upload buffers
    /// Released textures stay alive for so many calls of `next_frame`, because frames in flight may
    /// use them. 0: they are released at once.
    std::uint32_t frames_in_flight = 0;
};

/// What a resource is made as, beside what the texture asks for.
struct ResourceOptions {
    D3D12_RESOURCE_FLAGS flags = D3D12_RESOURCE_FLAG_NONE;  ///< ALLOW_RENDER_TARGET ...
        /// In memory of its own. By default textures share heaps, and begin at multiples of 4 KiB where
    /// Direct3D allows it, instead of taking 64 KiB each; those that are large (over 16 MiB) or
    /// drawn into are committed anyway.
    bool is_committed = false;
    /// A TYPELESS resource, of which views are made with and without the curve of sRGB.
    bool is_typeless = false;
};

/// A texture: a resource, and descriptions of its view and sampler. Levels that samplers see are in
/// the state PIXEL_SHADER_RESOURCE | NON_PIXEL_SHADER_RESOURCE; all others in COMMON.
class YL_API GpuTexture final : public PlannedTexture {
 public:
    /// Valid as long as this object; null after a move.
    [[nodiscard]] ID3D12Resource* resource() const;
    /// The subresource of a level, layer and face: level + levels * (layer * faces + face).
    [[nodiscard]] std::uint32_t subresource(std::uint32_t level, std::uint32_t layer = 0,
                                            std::uint32_t face = 0) const;
    /// Of the level range, with the swizzle.
    [[nodiscard]] D3D12_SHADER_RESOURCE_VIEW_DESC view_desc() const;
    /// The same with or without the curve of sRGB; for resources that are typeless.
    [[nodiscard]] D3D12_SHADER_RESOURCE_VIEW_DESC view_desc(Transfer transfer) const;
    [[nodiscard]] D3D12_SAMPLER_DESC sampler_desc() const;
    /// Writes descriptors into the program's heaps.
    void write_view(D3D12_CPU_DESCRIPTOR_HANDLE place) const;
    void write_sampler(D3D12_CPU_DESCRIPTOR_HANDLE place) const;

    /// The value of `backend` for this class.
    [[nodiscard]] static const void* backend_key();
    [[nodiscard]] const void* backend() const override { return backend_key(); }
    [[nodiscard]] Status write(const UploadPlan& plan, std::size_t batch,
                               const Texture& texture) override;
    [[nodiscard]] Status set_level_range(LevelRange range) override;
    using PlannedTexture::read_back;
    [[nodiscard]] Result<Texture> read_back(std::uint32_t level, std::uint32_t layer,
                                            std::uint32_t face) const override;

 private:
    friend class Device;
    struct Parts;
    explicit GpuTexture(std::unique_ptr<Parts> parts);
    /// Null after a move.
    [[nodiscard]] Parts* parts() const;
};

/// A texture whose copies are recorded in the program's command list. Later commands in that list may
/// sample it. Its upload buffer is kept until `finish` is called.
class YL_API RecordedUpload {
 public:
    RecordedUpload(RecordedUpload&&) noexcept;
    RecordedUpload& operator=(RecordedUpload&&) noexcept;
    ~RecordedUpload();

    /// The texture; commands after the copies may sample it.
    [[nodiscard]] GpuTexture& texture();
    /// Releases the upload buffer and returns the texture. Call it after the command list's fence.
    [[nodiscard]] GpuTexture finish() &&;

 private:
    friend class Device;
    struct Staging;
    RecordedUpload(GpuTexture texture, std::unique_ptr<Staging> staging);

    GpuTexture texture_;
    std::unique_ptr<Staging> staging_;
};

/// Creates textures on the program's device. Call it from one thread at a time.
class YL_API Device final : public TextureDevice {
 public:
    /// Reads formats and limits. Fails with `ErrorKind::usage` without device and queue, or for a
    /// queue of another type, and with `device` for a device that was removed.
    [[nodiscard]] static Result<Device> open(const DeviceHandles& handles,
                                             const DeviceOptions& options = {});

    [[nodiscard]] const DeviceProfile& profile() const override;

    /// Creates a texture, copies all levels and waits for the copies. Fails with
    /// `ErrorKind::memory` when the device has no memory left, and with `device` when it refuses
    /// the resource or was removed.
    [[nodiscard]] Result<GpuTexture> upload(const Texture& texture,
                                            const UploadOptions& options = {},
                                            const ResourceOptions& resource = {});
    /// The same, recorded into the program's command list of the type DIRECT, which is not closed.
    [[nodiscard]] Result<RecordedUpload> record(ID3D12GraphicsCommandList* commands,
                                                const Texture& texture,
                                                const UploadOptions& options = {},
                                                const ResourceOptions& resource = {});
    [[nodiscard]] Result<std::unique_ptr<DeviceTexture>> reserve(const TextureDesc& desc) override;

    /// Begins a frame and releases textures that went `frames_in_flight` frames ago.
    void next_frame();
    /// Waits for all copies of this device.
    /// Fails with `ErrorKind::device` when the device was removed.
    [[nodiscard]] Status wait();

    /// Used by this library's own drawing.
    [[nodiscard]] const std::shared_ptr<Context>& context() const { return context_; }

 private:
    [[nodiscard]] Result<GpuTexture> create(const TextureDesc& desc, UploadPlan plan,
                                            const ResourceOptions& options = {});

    std::shared_ptr<Context> context_ = {};
};

struct HeadlessParts;

struct HeadlessOptions {
    std::string device = {};     ///< part of its name; empty: the first
    bool has_copy_queue = true;  ///< beside the direct queue
};

/// A device of feature level 11.0 with its queues.
class YL_API HeadlessDevice {
 public:
    /// Fails with `ErrorKind::device` if there is no such device.
    [[nodiscard]] static Result<HeadlessDevice> create(const HeadlessOptions& options = {});
    HeadlessDevice(HeadlessDevice&&) noexcept;
    HeadlessDevice& operator=(HeadlessDevice&&) noexcept;
    ~HeadlessDevice();

    /// For `Device::open`; valid as long as this object.
    [[nodiscard]] const DeviceHandles& handles() const;

 private:
    explicit HeadlessDevice(std::unique_ptr<HeadlessParts> parts);

    std::unique_ptr<HeadlessParts> parts_;
};

}  // namespace yl::d3d12
