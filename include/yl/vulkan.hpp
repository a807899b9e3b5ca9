// Textures on Vulkan 1.1 to 1.3. Needs YellowLattice::vulkan. The program provides instance, device
// and queue; the library destroys everything that it creates.
//
//     yl::vulkan::Device device = yl::or_exit(yl::vulkan::Device::open(handles));
//     yl::vulkan::GpuTexture leaf = yl::or_exit(device.upload(texture));
//     leaf.write_descriptor(descriptor_set, 0);
#pragma once

#include <vulkan/vulkan_core.h>
#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/upload.hpp>

namespace yl::vulkan {

struct Context;  // the program's device with its functions; src/upload/vulkan/context.hpp

/// The features that the program enabled when it created the device; a VkDevice cannot tell.
struct EnabledFeatures {
    bool sampler_anisotropy = false;
    bool image_cube_array = false;
    bool texture_compression_bc = false;
    bool texture_compression_etc2 = false;
    bool texture_compression_astc_ldr = false;
    bool texture_compression_astc_hdr = false;  ///< Vulkan 1.3 or an extension
    bool sampler_mirror_clamp_to_edge = false;  ///< or VK_KHR_sampler_mirror_clamp_to_edge
    /// Shader stages besides vertex, fragment and compute that sample textures.
    bool geometry_shader = false;
    bool tessellation_shader = false;
    bool mesh_shader = false;           ///< VK_EXT_mesh_shader: taskShader and meshShader
    bool ray_tracing = false;           ///< VK_KHR_ray_tracing_pipeline
    bool custom_border_colors = false;  ///< VK_EXT_custom_border_color, also without a format
    /// Of sampled images: runtimeDescriptorArray, descriptorBindingPartiallyBound,
    /// descriptorBindingSampledImageUpdateAfterBind, descriptorBindingUpdateUnusedWhilePending,
    /// shaderSampledImageArrayNonUniformIndexing.
    bool descriptor_indexing = false;
};

/// A piece of device memory.
struct MemoryPiece {
    VkDeviceMemory memory = VK_NULL_HANDLE;
    VkDeviceSize offset = 0, size = 0;
    void* mapped = nullptr;  ///< host address of the piece, for host-visible memory
    std::uint64_t tag = 0;   ///< for the allocator's own use
};

/// An allocator provided by the program.
struct MemoryAllocator {
    /// Fails with `ErrorKind::memory` when memory runs out.
    std::function<Result<MemoryPiece>(const VkMemoryRequirements&, VkMemoryPropertyFlags)> take;
    std::function<void(const MemoryPiece&)> give_back;
};

/// The program's device. The handles must outlive everything created with them.
struct DeviceHandles {
    VkInstance instance = VK_NULL_HANDLE;
    VkPhysicalDevice physical_device = VK_NULL_HANDLE;
    VkDevice device = VK_NULL_HANDLE;
    VkQueue queue = VK_NULL_HANDLE;  ///< the queue that samples textures
    std::uint32_t queue_family = 0;
    /// If set, copies use this queue, and textures change queue family ownership.
    VkQueue transfer_queue = VK_NULL_HANDLE;
    std::uint32_t transfer_family = 0;
    PFN_vkGetInstanceProcAddr get_instance_proc_addr = nullptr;
    EnabledFeatures features = {};
    std::optional<MemoryAllocator> allocator = {};  ///< by default the library's own pools
};

struct DeviceOptions {
    std::uint64_t staging_budget = 8U << 20;  ///< bytes of each of the two staging buffers
    /// Destroyed textures stay alive for so many calls of `next_frame`, because frames in flight
    /// may use them. 0: they are destroyed at once.
    std::uint32_t frames_in_flight = 0;
};

/// A texture: image, view, and a sampler that textures with equal samplers share.
class YL_API GpuTexture final : public PlannedTexture {
 public:
    /// Valid as long as this object.
    [[nodiscard]] VkImage image() const;
    /// A view of the level range; replaced when that changes.
    [[nodiscard]] VkImageView view() const;
    [[nodiscard]] VkSampler sampler_handle() const;
    /// For descriptors of type COMBINED_IMAGE_SAMPLER, or SAMPLED_IMAGE and SAMPLER.
    [[nodiscard]] VkDescriptorImageInfo descriptor() const;
    /// The same with another sampler, adapted to the device, so that materials can share a texture.
    [[nodiscard]] Result<VkDescriptorImageInfo> descriptor(const Sampler& sampler) const;
    /// Writes a combined image sampler.
    void write_descriptor(VkDescriptorSet set, std::uint32_t binding,
                          std::uint32_t element = 0) const;

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

/// A texture whose copies are recorded in the program's command buffer. Later commands in that
/// buffer may sample it. Its staging memory is kept until `finish` is called.
class YL_API RecordedUpload {
 public:
    RecordedUpload(RecordedUpload&&) noexcept;
    RecordedUpload& operator=(RecordedUpload&&) noexcept;
    ~RecordedUpload();

    /// The texture; commands after the copies may sample it.
    [[nodiscard]] GpuTexture& texture();
    /// Frees the staging memory and returns the texture. Call it after the command buffer's fence.
    [[nodiscard]] GpuTexture finish() &&;

 private:
    friend class Device;
    struct Staging;
    RecordedUpload(GpuTexture texture, std::unique_ptr<Staging> staging);

    GpuTexture texture_;
    std::unique_ptr<Staging> staging_;
};

/// Creates textures on the program's device. Call it from one thread at a time, while nothing else
/// uses the queues.
class YL_API Device final : public TextureDevice {
 public:
    /// Reads limits and formats. Fails with `ErrorKind::device` below Vulkan 1.1, or when a
    /// function is missing.
    [[nodiscard]] static Result<Device> open(const DeviceHandles& handles,
                                             const DeviceOptions& options = {});

    [[nodiscard]] const DeviceProfile& profile() const override;

    /// Creates a texture, copies all levels and waits for the copies. `further_usage` adds uses
    /// besides sampling and copying, such as a render target or storage. Fails with
    /// `ErrorKind::device` if the device cannot use the format that way.
    [[nodiscard]] Result<GpuTexture> upload(const Texture& texture,
                                            const UploadOptions& options = {},
                                            VkImageUsageFlags further_usage = 0);
    /// The same, recorded into the program's command buffer, which is not submitted. The buffer
    /// must be outside a render pass and belong to the family of the queue.
    [[nodiscard]] Result<RecordedUpload> record(VkCommandBuffer commands, const Texture& texture,
                                                const UploadOptions& options = {},
                                                VkImageUsageFlags further_usage = 0);
    [[nodiscard]] Result<std::unique_ptr<DeviceTexture>> reserve(const TextureDesc& desc) override;

    /// Begins a frame and destroys textures that were released `frames_in_flight` frames ago.
    void next_frame();
    /// Waits for all copies of this device.
    /// Fails with `ErrorKind::device` when the device is lost.
    [[nodiscard]] Status wait();

    /// The number of sampler objects in use.
    [[nodiscard]] std::size_t sampler_count() const;
    /// Used by this library's own drawing.
    [[nodiscard]] const std::shared_ptr<Context>& context() const { return context_; }

 private:
    [[nodiscard]] Result<GpuTexture> create(const TextureDesc& desc, UploadPlan plan,
                                            VkImageUsageFlags further_usage = 0);

    std::shared_ptr<Context> context_ = {};
};

/// A descriptor array of textures that shaders index by number. Needs
/// `EnabledFeatures::descriptor_indexing`.
class YL_API TextureTable {
 public:
    /// `binding` is the binding of the array in its own set.
    /// Fails with `ErrorKind::device` when the features are not enabled.
    [[nodiscard]] static Result<TextureTable> create(
        const Device& device, std::uint32_t capacity, std::uint32_t binding = 0,
        VkShaderStageFlags stages = VK_SHADER_STAGE_ALL);
    TextureTable(TextureTable&& other) noexcept;
    TextureTable& operator=(TextureTable&& other) noexcept;
    ~TextureTable();

    /// For pipelines and draw calls; valid as long as the table.
    [[nodiscard]] VkDescriptorSetLayout layout() const;
    [[nodiscard]] VkDescriptorSet set() const;
    [[nodiscard]] std::uint32_t capacity() const;

    /// May be called while the set is bound, for numbers that no frame in flight uses. Fails with
    /// `ErrorKind::usage` beyond the capacity.
    [[nodiscard]] Status put(std::uint32_t number, const GpuTexture& texture);

 private:
    struct Parts;
    explicit TextureTable(std::unique_ptr<Parts> parts);

    std::unique_ptr<Parts> parts_;
};

struct HeadlessParts;

struct HeadlessOptions {
    std::string device = {};  ///< part of its name; empty: hardware if there is any
    /// Enables the validation layer with synchronization and best-practice checks. Fails without
    /// the layer.
    bool validation = false;
    /// Sets the environment variable that makes Mesa's software driver exact in level of detail and
    /// 8-bit filtering.
    bool exact_filtering = true;
};

/// Instance, device and one queue, with every feature that benefits textures.
class YL_API HeadlessDevice {
 public:
    /// Fails with `ErrorKind::device` if there is no such driver or device, listing those that
    /// exist.
    [[nodiscard]] static Result<HeadlessDevice> create(const HeadlessOptions& options = {});
    HeadlessDevice(HeadlessDevice&&) noexcept;
    HeadlessDevice& operator=(HeadlessDevice&&) noexcept;
    ~HeadlessDevice();

    /// For `Device::open`; valid as long as this object.
    [[nodiscard]] const DeviceHandles& handles() const;
    /// The messages of the validation layer so far.
    [[nodiscard]] const std::vector<std::string>& messages() const;

 private:
    explicit HeadlessDevice(std::unique_ptr<HeadlessParts> parts);

    std::unique_ptr<HeadlessParts> parts_;
};

/// The names of all devices.
/// Fails with `ErrorKind::device` without a Vulkan loader.
[[nodiscard]] YL_API Result<std::vector<std::string>> device_names();

}  // namespace yl::vulkan
