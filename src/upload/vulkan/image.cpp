#include "upload/vulkan/image.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>

namespace yl::vulkan {
namespace {

VkImageType image_type(const TextureShape& shape) {
    return shape.dimensions() == 1   ? VK_IMAGE_TYPE_1D
           : shape.dimensions() == 3 ? VK_IMAGE_TYPE_3D
                                     : VK_IMAGE_TYPE_2D;
}

VkImageViewType view_type(const TextureShape& shape) {
    const bool is_array = shape.is_array || shape.layers > 1;
    if (shape.faces == 6)
        return is_array ? VK_IMAGE_VIEW_TYPE_CUBE_ARRAY : VK_IMAGE_VIEW_TYPE_CUBE;
    if (shape.dimensions() == 1)
        return is_array ? VK_IMAGE_VIEW_TYPE_1D_ARRAY : VK_IMAGE_VIEW_TYPE_1D;
    if (shape.dimensions() == 3)
        return VK_IMAGE_VIEW_TYPE_3D;
    return is_array ? VK_IMAGE_VIEW_TYPE_2D_ARRAY : VK_IMAGE_VIEW_TYPE_2D;
}

VkComponentSwizzle component(SwizzleSource source) {
    constexpr VkComponentSwizzle names[] = {VK_COMPONENT_SWIZZLE_R,    VK_COMPONENT_SWIZZLE_G,
                                            VK_COMPONENT_SWIZZLE_B,    VK_COMPONENT_SWIZZLE_A,
                                            VK_COMPONENT_SWIZZLE_ZERO, VK_COMPONENT_SWIZZLE_ONE};
    return names[static_cast<std::size_t>(source)];
}

}  // namespace

std::vector<LevelChange> ImageParts::change(std::uint32_t first, std::uint32_t count,
                                            VkImageLayout to) {
    std::vector<LevelChange> changes;
    for (std::uint32_t level = first; level < first + count; ++level) {
        changes.push_back({level, layouts[level], to});
        layouts[level] = to;
    }
    return changes;
}

namespace {

/// A use that the device has not for such images would be undefined behaviour.
Status check_usage(const Context& context, Format format, VkImageUsageFlags usage) {
    constexpr std::pair<VkImageUsageFlags, VkFormatFeatureFlags> needs[] = {
        {VK_IMAGE_USAGE_STORAGE_BIT, VK_FORMAT_FEATURE_STORAGE_IMAGE_BIT},
        {VK_IMAGE_USAGE_COLOR_ATTACHMENT_BIT, VK_FORMAT_FEATURE_COLOR_ATTACHMENT_BIT},
        {VK_IMAGE_USAGE_INPUT_ATTACHMENT_BIT, VK_FORMAT_FEATURE_COLOR_ATTACHMENT_BIT},
        {VK_IMAGE_USAGE_DEPTH_STENCIL_ATTACHMENT_BIT,
         VK_FORMAT_FEATURE_DEPTH_STENCIL_ATTACHMENT_BIT}};
    VkFormatProperties found{};
    context.vk.GetPhysicalDeviceFormatProperties(context.handles.physical_device,
                                                 static_cast<VkFormat>(format), &found);
    for (const auto& [use, feature] : needs)
        if ((usage & use) != 0 && (found.optimalTilingFeatures & feature) == 0)
            return fail_at({ErrorKind::device,
                            fmt::format("the device has no images of {} for that use; choose a "
                                        "format that it draws into or stores to",
                                        info(format).name)},
                           "further_usage");
    return {};
}

}  // namespace

Result<std::shared_ptr<ImageParts>> make_image(Context& context, const TextureShape& shape,
                                               const std::string& label,
                                               VkImageUsageFlags further_usage) {
    VkImageCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_IMAGE_CREATE_INFO;
    if (shape.faces == 6)
        info.flags = VK_IMAGE_CREATE_CUBE_COMPATIBLE_BIT;
    info.imageType = image_type(shape);
    info.format = static_cast<VkFormat>(shape.format);
    info.extent = {shape.width, shape.height, shape.depth};
    info.mipLevels = shape.levels;
    info.arrayLayers = shape.layers * shape.faces;
    info.samples = VK_SAMPLE_COUNT_1_BIT;
    info.tiling = VK_IMAGE_TILING_OPTIMAL;
    info.usage = VK_IMAGE_USAGE_SAMPLED_BIT | VK_IMAGE_USAGE_TRANSFER_DST_BIT |
                 VK_IMAGE_USAGE_TRANSFER_SRC_BIT | further_usage;
    info.sharingMode = VK_SHARING_MODE_EXCLUSIVE;
    info.initialLayout = VK_IMAGE_LAYOUT_UNDEFINED;
    YL_CHECK(check_usage(context, shape.format, further_usage));
    VkImage image = VK_NULL_HANDLE;
    YL_CHECK(
        check(context.vk.CreateImage(context.device(), &info, nullptr, &image), "make an image"));
    auto parts = std::make_shared<ImageParts>();
    parts->image = ImageHandle(context.vk, context.device(), image);
    VkMemoryRequirements wanted{};
    context.vk.GetImageMemoryRequirements(context.device(), image, &wanted);
    YL_TRY(const MemoryPiece piece,
           context.take_memory(wanted, VK_MEMORY_PROPERTY_DEVICE_LOCAL_BIT));
    parts->memory = OwnedMemory(context, piece);
    YL_CHECK(check(context.vk.BindImageMemory(context.device(), image, piece.memory, piece.offset),
                   "bind an image's memory"));
    parts->layouts.assign(shape.levels, VK_IMAGE_LAYOUT_UNDEFINED);
    context.set_label(VK_OBJECT_TYPE_IMAGE, reinterpret_cast<std::uint64_t>(image), label);
    return parts;
}

Result<ImageViewHandle> make_view(const Context& context, VkImage image, const TextureShape& shape,
                                  const Swizzle& swizzle, LevelRange levels) {
    VkImageViewCreateInfo info{};
    info.sType = VK_STRUCTURE_TYPE_IMAGE_VIEW_CREATE_INFO;
    info.image = image;
    info.viewType = view_type(shape);
    info.format = static_cast<VkFormat>(shape.format);
    info.components = {component(swizzle[0]), component(swizzle[1]), component(swizzle[2]),
                       component(swizzle[3])};
    info.subresourceRange = {VK_IMAGE_ASPECT_COLOR_BIT, levels.first, levels.count, 0,
                             shape.layers * shape.faces};
    VkImageView view = VK_NULL_HANDLE;
    YL_CHECK(check(context.vk.CreateImageView(context.device(), &info, nullptr, &view),
                   "make an image view"));
    return ImageViewHandle(context.vk, context.device(), view);
}

std::vector<VkBufferImageCopy> copies_of(const UploadPlan& plan, const UploadBatch& batch,
                                         VkDeviceSize offset) {
    const FormatInfo& f = info(plan.shape.format);
    std::vector<VkBufferImageCopy> copies;
    for (const UploadRegion& region : plan.regions_of(batch)) {
        VkBufferImageCopy copy{};
        copy.bufferOffset = offset + region.offset;
        // Counted in texels, of whole blocks.
        copy.bufferRowLength =
            static_cast<std::uint32_t>(region.row_pitch / f.block_bytes) * f.block_width;
        copy.bufferImageHeight =
            static_cast<std::uint32_t>(region.slice_pitch / region.row_pitch) * f.block_height;
        copy.imageSubresource = {VK_IMAGE_ASPECT_COLOR_BIT, region.level,
                                 region.layer * plan.shape.faces + region.face, 1};
        copy.imageOffset = {static_cast<std::int32_t>(region.x),
                            static_cast<std::int32_t>(region.y),
                            static_cast<std::int32_t>(region.z)};
        copy.imageExtent = {region.width, region.height, region.depth};
        copies.push_back(copy);
    }
    return copies;
}

void record(const Functions& vk, VkCommandBuffer commands, const Barriers& barriers) {
    if (!barriers.is_empty())
        vk.CmdPipelineBarrier(commands, barriers.before, barriers.after, 0, 0, nullptr, 0, nullptr,
                              static_cast<std::uint32_t>(barriers.images.size()),
                              barriers.images.data());
}

void record_host_read(const Functions& vk, VkCommandBuffer commands) {
    VkMemoryBarrier seen{};
    seen.sType = VK_STRUCTURE_TYPE_MEMORY_BARRIER;
    seen.srcAccessMask = VK_ACCESS_TRANSFER_WRITE_BIT;
    seen.dstAccessMask = VK_ACCESS_HOST_READ_BIT;
    vk.CmdPipelineBarrier(commands, VK_PIPELINE_STAGE_TRANSFER_BIT, VK_PIPELINE_STAGE_HOST_BIT, 0,
                          1, &seen, 0, nullptr, 0, nullptr);
}

}  // namespace yl::vulkan
