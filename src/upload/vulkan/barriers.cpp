#include "upload/vulkan/barriers.hpp"

namespace yl::vulkan {
namespace {

struct Use {
    VkPipelineStageFlags stages;
    VkAccessFlags access;
};

/// What has to be over, or has to wait, for images of a layout.
Use use_of(VkImageLayout layout, VkPipelineStageFlags readers) {
    switch (layout) {
        case VK_IMAGE_LAYOUT_TRANSFER_DST_OPTIMAL:
            return {VK_PIPELINE_STAGE_TRANSFER_BIT, VK_ACCESS_TRANSFER_WRITE_BIT};
        case VK_IMAGE_LAYOUT_TRANSFER_SRC_OPTIMAL:
            return {VK_PIPELINE_STAGE_TRANSFER_BIT, VK_ACCESS_TRANSFER_READ_BIT};
        case VK_IMAGE_LAYOUT_SHADER_READ_ONLY_OPTIMAL:
            return {readers, VK_ACCESS_SHADER_READ_BIT};
        default:
            return {VK_PIPELINE_STAGE_TOP_OF_PIPE_BIT, 0};
    }
}

VkImageMemoryBarrier barrier(VkImage image, const LevelChange& change,
                             VkPipelineStageFlags readers) {
    VkImageMemoryBarrier result{};
    result.sType = VK_STRUCTURE_TYPE_IMAGE_MEMORY_BARRIER;
    // What was only read needs no more than to be over.
    const bool was_written = change.from == VK_IMAGE_LAYOUT_TRANSFER_DST_OPTIMAL;
    result.srcAccessMask = was_written ? use_of(change.from, readers).access : VkAccessFlags{0};
    result.dstAccessMask = use_of(change.to, readers).access;
    result.oldLayout = change.from;
    result.newLayout = change.to;
    result.srcQueueFamilyIndex = result.dstQueueFamilyIndex = VK_QUEUE_FAMILY_IGNORED;
    result.image = image;
    result.subresourceRange = {VK_IMAGE_ASPECT_COLOR_BIT, change.level, 1, 0,
                               VK_REMAINING_ARRAY_LAYERS};
    return result;
}

}  // namespace

VkPipelineStageFlags reading_stages(const EnabledFeatures& features) {
    const auto when = [](bool is_on, VkPipelineStageFlags stages) {
        return is_on ? stages : VkPipelineStageFlags{0};
    };
    return VK_PIPELINE_STAGE_VERTEX_SHADER_BIT | VK_PIPELINE_STAGE_FRAGMENT_SHADER_BIT |
           VK_PIPELINE_STAGE_COMPUTE_SHADER_BIT |
           when(features.geometry_shader, VK_PIPELINE_STAGE_GEOMETRY_SHADER_BIT) |
           when(features.tessellation_shader,
                VK_PIPELINE_STAGE_TESSELLATION_CONTROL_SHADER_BIT |
                    VK_PIPELINE_STAGE_TESSELLATION_EVALUATION_SHADER_BIT) |
           when(features.mesh_shader,
                VK_PIPELINE_STAGE_TASK_SHADER_BIT_EXT | VK_PIPELINE_STAGE_MESH_SHADER_BIT_EXT) |
           when(features.ray_tracing, VK_PIPELINE_STAGE_RAY_TRACING_SHADER_BIT_KHR);
}

Barriers barriers_for(VkImage image, const std::vector<LevelChange>& changes,
                      VkPipelineStageFlags readers) {
    Barriers result;
    for (const LevelChange& change : changes) {
        if (change.from == change.to)
            continue;
        result.before |= use_of(change.from, readers).stages;
        result.after |= use_of(change.to, readers).stages;
        if (!result.images.empty()) {
            VkImageMemoryBarrier& last = result.images.back();
            VkImageSubresourceRange& range = last.subresourceRange;
            if (last.oldLayout == change.from && last.newLayout == change.to &&
                range.baseMipLevel + range.levelCount == change.level) {
                ++range.levelCount;
                continue;
            }
        }
        result.images.push_back(barrier(image, change, readers));
    }
    return result;
}

Barriers owner_barriers(VkImage image, const std::vector<LevelChange>& changes,
                        VkPipelineStageFlags readers, const Owners& owners, Half half) {
    Barriers result = barriers_for(image, changes, readers);
    for (VkImageMemoryBarrier& each : result.images) {
        each.srcQueueFamilyIndex = owners.from;
        each.dstQueueFamilyIndex = owners.to;
        // Each half has the access of its own queue alone.
        (half == Half::release ? each.dstAccessMask : each.srcAccessMask) = 0;
    }
    if (half == Half::release)
        result.after = VK_PIPELINE_STAGE_BOTTOM_OF_PIPE_BIT;
    else
        result.before = VK_PIPELINE_STAGE_TRANSFER_BIT;  // where the semaphore waits, too
    return result;
}

}  // namespace yl::vulkan
