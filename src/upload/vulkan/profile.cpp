#include "upload/vulkan/profile.hpp"

#include <fmt/format.h>

#include <algorithm>

namespace yl::vulkan {
namespace {

bool fits(const Functions& vk, VkPhysicalDevice device, VkFormat format, VkImageType type) {
    VkImageFormatProperties found{};
    return vk.GetPhysicalDeviceImageFormatProperties(device, format, type, VK_IMAGE_TILING_OPTIMAL,
                                                     VK_IMAGE_USAGE_SAMPLED_BIT |
                                                         VK_IMAGE_USAGE_TRANSFER_DST_BIT |
                                                         VK_IMAGE_USAGE_TRANSFER_SRC_BIT,
                                                     0, &found) == VK_SUCCESS;
}

bool has_family(const EnabledFeatures& features, BlockFamily family) {
    switch (family) {
        case BlockFamily::none:
            return true;
        case BlockFamily::bc:
            return features.texture_compression_bc;
        case BlockFamily::etc2:
            return features.texture_compression_etc2;
        case BlockFamily::astc:
            return features.texture_compression_astc_ldr;
        case BlockFamily::astc_hdr:
            return features.texture_compression_astc_hdr;
    }
    return false;
}

std::vector<FormatSupport> read_formats(const Functions& vk, const DeviceHandles& handles) {
    constexpr VkFormatFeatureFlags needed = VK_FORMAT_FEATURE_SAMPLED_IMAGE_BIT |
                                            VK_FORMAT_FEATURE_TRANSFER_DST_BIT |
                                            VK_FORMAT_FEATURE_TRANSFER_SRC_BIT;
    std::vector<FormatSupport> formats;
    for (const FormatInfo& f : all_formats()) {
        if (!has_family(handles.features, f.family))
            continue;
        const auto format = static_cast<VkFormat>(f.format);
        VkFormatProperties properties{};
        vk.GetPhysicalDeviceFormatProperties(handles.physical_device, format, &properties);
        const VkFormatFeatureFlags features = properties.optimalTilingFeatures;
        if ((features & needed) != needed ||
            !fits(vk, handles.physical_device, format, VK_IMAGE_TYPE_2D))
            continue;
        FormatSupport& support = formats.emplace_back(f.format);
        support.is_filtered = (features & VK_FORMAT_FEATURE_SAMPLED_IMAGE_FILTER_LINEAR_BIT) != 0;
        support.allows_1d =
            !f.is_block() && fits(vk, handles.physical_device, format, VK_IMAGE_TYPE_1D);
        support.allows_3d = fits(vk, handles.physical_device, format, VK_IMAGE_TYPE_3D);
    }
    return formats;
}

std::uint32_t as_alignment(VkDeviceSize bytes) {
    return static_cast<std::uint32_t>(std::clamp<VkDeviceSize>(bytes, 1, 4096));
}

}  // namespace

Result<DeviceProfile> read_profile(const Functions& vk, const DeviceHandles& handles) {
    VkPhysicalDeviceProperties properties{};
    vk.GetPhysicalDeviceProperties(handles.physical_device, &properties);
    const std::uint32_t version = properties.apiVersion;
    const std::string version_text =
        fmt::format("{}.{}", VK_API_VERSION_MAJOR(version), VK_API_VERSION_MINOR(version));
    if (version < VK_API_VERSION_1_1)
        return fail(ErrorKind::device,
                    fmt::format("the device offers Vulkan {}; 1.1 is needed", version_text));
    const VkPhysicalDeviceLimits& limits = properties.limits;
    const EnabledFeatures& features = handles.features;
    DeviceProfile profile;
    profile.name = properties.deviceName;
    profile.api = "Vulkan " + version_text;
    profile.api_kind = GraphicsApi::vulkan;
    profile.max_1d_side = limits.maxImageDimension1D;
    profile.max_2d_side = limits.maxImageDimension2D;
    profile.max_3d_side = limits.maxImageDimension3D;
    profile.max_cube_side = limits.maxImageDimensionCube;
    profile.max_layers = limits.maxImageArrayLayers;
    profile.has_cube_arrays = features.image_cube_array;
    profile.max_anisotropy = features.sampler_anisotropy ? limits.maxSamplerAnisotropy : 1;
    profile.max_level_bias = limits.maxSamplerLodBias;
    profile.has_any_border_color = features.custom_border_colors;
    profile.has_mirror_once = features.sampler_mirror_clamp_to_edge;
    profile.max_textures =
        std::min(limits.maxPerStageDescriptorSampledImages, limits.maxPerStageDescriptorSamplers);
    profile.max_samplers = limits.maxSamplerAllocationCount;
    profile.row_pitch_alignment = as_alignment(limits.optimalBufferCopyRowPitchAlignment);
    // Every queue takes multiples of four.
    profile.offset_alignment = std::max(4U, as_alignment(limits.optimalBufferCopyOffsetAlignment));
    profile.formats = read_formats(vk, handles);
    return profile;
}

bool copies_anywhere(const Functions& vk, const DeviceHandles& handles) {
    std::uint32_t count = 0;
    vk.GetPhysicalDeviceQueueFamilyProperties(handles.physical_device, &count, nullptr);
    std::vector<VkQueueFamilyProperties> families(count);
    vk.GetPhysicalDeviceQueueFamilyProperties(handles.physical_device, &count, families.data());
    if (handles.transfer_family >= count)
        return false;
    const VkExtent3D& step = families[handles.transfer_family].minImageTransferGranularity;
    return step.width == 1 && step.height == 1 && step.depth == 1;
}

}  // namespace yl::vulkan
