// Textures on Vulkan 1.1 to 1.3. Needs YellowLattice::vulkan. The program brings its own instance,
// device and queue; everything that is made here is destroyed here.
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

/// What the program switched on when it made its device; nobody can ask a VkDevice for it.
struct EnabledFeatures {
    bool sampler_anisotropy = false;
    bool image_cube_array = false;
    bool texture_compression_bc = false;
    bool sampler_mirror_clamp_to_edge = false;  ///< or VK_KHR_sampler_mirror_clamp_to_edge
    /// Shader stages beside vertex, fragment and compute, which textures are made visible to.
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
    void* mapped = nullptr;  ///< where the piece begins; of memory that the host sees
    std::uint64_t tag = 0;   ///< whatever the allocator needs to find it again
};

/// A program's own allocator.
struct MemoryAllocator {
    /// Fails with `ErrorKind::memory` when there is no such memory.
    std::function<Result<MemoryPiece>(const VkMemoryRequirements&, VkMemoryPropertyFlags)> take;
    std::function<void(const MemoryPiece&)> give_back;
};

/// The program's device. Handles have to outlive everything made with them.
struct DeviceHandles {
    VkInstance instance = VK_NULL_HANDLE;
    VkPhysicalDevice physical_device = VK_NULL_HANDLE;
    VkDevice device = VK_NULL_HANDLE;
    VkQueue queue = VK_NULL_HANDLE;  ///< on which textures are sampled
    std::uint32_t queue_family = 0;
    /// Copies go through this queue if it is there; textures then change their owner.
    VkQueue transfer_queue = VK_NULL_HANDLE;
    std::uint32_t transfer_family = 0;
    PFN_vkGetInstanceProcAddr get_instance_proc_addr = nullptr;
    EnabledFeatures features = {};
    std::optional<MemoryAllocator> allocator = {};  ///< pools of this library when left out
};

struct DeviceOptions {
    std::uint64_t staging_budget = 8U << 20;  ///< bytes of each of the two staging buffers
    /// A texture that goes stays alive for so many calls of `next_frame`, because frames that the
    /// device has not drawn yet may use it. 0: it goes at once.
    std::uint32_t frames_in_flight = 0;
};

/// A texture: image, view and a sampler that textures of equal samplers share.
class YL_API GpuTexture final : public DeviceTexture {
 public:
    GpuTexture(GpuTexture&& other) noexcept;
    GpuTexture& operator=(GpuTexture&& other) noexcept;
    GpuTexture(const GpuTexture&) = delete;
    GpuTexture& operator=(const GpuTexture&) = delete;
    /// Waits for copies of its own that are under way.
    ~GpuTexture() override;

    /// Valid as long as this object is.
    [[nodiscard]] VkImage image() const;
    /// Of the levels that are shown; a new one whenever they change.
    [[nodiscard]] VkImageView view() const;
    [[nodiscard]] VkSampler sampler_handle() const;
    /// For a descriptor of the type COMBINED_IMAGE_SAMPLER, or SAMPLED_IMAGE and SAMPLER.
    [[nodiscard]] VkDescriptorImageInfo descriptor() const;
    /// The same with another sampler, within the device's limits: one texture serves many
    /// materials.
    [[nodiscard]] Result<VkDescriptorImageInfo> descriptor(const Sampler& sampler) const;
    /// Writes it as a combined image sampler.
    void write_descriptor(VkDescriptorSet set, std::uint32_t binding,
                          std::uint32_t element = 0) const;

    [[nodiscard]] const UploadPlan& plan() const;
    [[nodiscard]] const Sampler& sampler() const;  ///< within the limits
    [[nodiscard]] const Findings& findings() const;

    /// What `backend` gives for textures of this class.
    [[nodiscard]] static const void* backend_key();
    [[nodiscard]] const void* backend() const override { return backend_key(); }
    [[nodiscard]] const TextureShape& shape() const override;
    [[nodiscard]] LevelRange level_range() const override;
    [[nodiscard]] Status write(const UploadPlan& plan, std::size_t batch,
                               const Texture& texture) override;
    [[nodiscard]] Status set_level_range(LevelRange range) override;
    [[nodiscard]] Result<Texture> read_back() const override;
    /// One level of one layer and face (a volume's with all its slices), as a texture of one level.
    /// Fails with `ErrorKind::usage` where there is no such part, or it is not shown.
    [[nodiscard]] Result<Texture> read_back(std::uint32_t level, std::uint32_t layer,
                                            std::uint32_t face) const;

    /// Changes some texels: `texels` has one level of the box's size, in the format that the whole
    /// texture came in.
    /// Fails with `ErrorKind::usage` where they do not fit.
    [[nodiscard]] Status update(const TextureBox& box, const Texture& texels);

 private:
    friend class Device;
    struct Parts;
    explicit GpuTexture(std::unique_ptr<Parts> parts);
    [[nodiscard]] const Parts& parts() const;

    std::unique_ptr<Parts> parts_;  ///< none once it was moved from
};

/// A texture whose copies stand in the program's command buffer. It may be sampled by what follows
/// in that buffer; its staging memory is held until this is told that the device is through.
class YL_API RecordedUpload {
 public:
    RecordedUpload(RecordedUpload&&) noexcept;
    RecordedUpload& operator=(RecordedUpload&&) noexcept;
    ~RecordedUpload();

    /// The texture that is being uploaded; its levels can be sampled after the commands.
    [[nodiscard]] GpuTexture& texture();
    /// Gives the staging memory back, and hands the texture over: after the command buffer's fence.
    [[nodiscard]] GpuTexture finish() &&;

 private:
    friend class Device;
    struct Staging;
    RecordedUpload(GpuTexture texture, std::unique_ptr<Staging> staging);

    GpuTexture texture_;
    std::unique_ptr<Staging> staging_;
};

/// The program's device, as far as textures are concerned. Calls come from one thread at a time,
/// and need the queues for themselves while they run.
class YL_API Device final : public TextureDevice {
 public:
    /// Reads limits and formats. Fails with `ErrorKind::device` below Vulkan 1.1, or when a
    /// function is missing.
    [[nodiscard]] static Result<Device> open(const DeviceHandles& handles,
                                             const DeviceOptions& options = {});

    [[nodiscard]] const DeviceProfile& profile() const override;

    /// Creates the texture, copies all levels, and waits until they are there. `further_usage` is
    /// what the image is for beside sampling and copying: a render target, storage. Fails with
    /// `ErrorKind::device` when the device cannot use the format so.
    [[nodiscard]] Result<GpuTexture> upload(const Texture& texture,
                                            const UploadOptions& options = {},
                                            VkImageUsageFlags further_usage = 0);
    /// The same, recorded into the program's command buffer, which is neither submitted nor waited
    /// for. It has to be outside of a render pass, and of the queue's own family.
    [[nodiscard]] Result<RecordedUpload> record(VkCommandBuffer commands, const Texture& texture,
                                                const UploadOptions& options = {},
                                                VkImageUsageFlags further_usage = 0);
    [[nodiscard]] Result<std::unique_ptr<DeviceTexture>> reserve(const TextureDesc& desc) override;

    /// A frame begins: textures that went `frames_in_flight` frames ago are destroyed.
    void next_frame();
    /// Until all copies of this device are done.
    /// Fails with `ErrorKind::device` when the device is lost.
    [[nodiscard]] Status wait();

    /// Sampler objects that textures share at present.
    [[nodiscard]] std::size_t sampler_count() const;
    /// For this library's own drawing.
    [[nodiscard]] const std::shared_ptr<Context>& context() const { return context_; }

 private:
    [[nodiscard]] Result<GpuTexture> create(const TextureDesc& desc, UploadPlan plan,
                                            VkImageUsageFlags further_usage = 0);

    std::shared_ptr<Context> context_ = {};
};

/// Textures by number: one descriptor array for a shader to index. Needs
/// `EnabledFeatures::descriptor_indexing`.
class YL_API TextureTable {
 public:
    /// `binding` is the array's, of a set of its own.
    /// Fails with `ErrorKind::device` when the features are not enabled.
    [[nodiscard]] static Result<TextureTable> create(
        const Device& device, std::uint32_t capacity, std::uint32_t binding = 0,
        VkShaderStageFlags stages = VK_SHADER_STAGE_ALL);
    TextureTable(TextureTable&& other) noexcept;
    TextureTable& operator=(TextureTable&& other) noexcept;
    ~TextureTable();

    /// For pipelines and draw calls; valid as long as the table is.
    [[nodiscard]] VkDescriptorSetLayout layout() const;
    [[nodiscard]] VkDescriptorSet set() const;
    [[nodiscard]] std::uint32_t capacity() const;

    /// May be called while the set is bound, for numbers that no frame under way uses. Fails with
    /// `ErrorKind::usage` beyond the capacity.
    [[nodiscard]] Status put(std::uint32_t number, const GpuTexture& texture);

 private:
    struct Parts;
    explicit TextureTable(std::unique_ptr<Parts> parts);

    std::unique_ptr<Parts> parts_;
};

struct HeadlessParts;

struct HeadlessOptions {
    std::string device = {};  ///< a part of its name; hardware if there is any when empty
    /// Rules checked by the validation layer, with synchronization and best practices. Fails
    /// without the layer.
    bool validation = false;
    /// Asks Mesa's software driver, through the environment, not to take its shortcuts in level of
    /// detail and 8-bit filtering.
    bool exact_filtering = true;
};

/// Instance, device and one queue, with every feature that textures gain by.
class YL_API HeadlessDevice {
 public:
    /// Fails with `ErrorKind::device` when there is no such driver or device, naming those that
    /// there are.
    [[nodiscard]] static Result<HeadlessDevice> create(const HeadlessOptions& options = {});
    HeadlessDevice(HeadlessDevice&&) noexcept;
    HeadlessDevice& operator=(HeadlessDevice&&) noexcept;
    ~HeadlessDevice();

    /// For `Device::open`; valid as long as this object is.
    [[nodiscard]] const DeviceHandles& handles() const;
    /// What the validation layer has said so far.
    [[nodiscard]] const std::vector<std::string>& messages() const;

 private:
    explicit HeadlessDevice(std::unique_ptr<HeadlessParts> parts);

    std::unique_ptr<HeadlessParts> parts_;
};

/// The names of all devices.
/// Fails with `ErrorKind::device` without a Vulkan loader.
[[nodiscard]] YL_API Result<std::vector<std::string>> device_names();

}  // namespace yl::vulkan
