// Image barriers: which layout and which owner a texture's levels have.
#pragma once

#include <vector>

#include <yl/vulkan.hpp>

namespace yl::vulkan {

/// Which levels go from one layout to another; all layers and faces of them.
struct LevelChange {
    std::uint32_t level = 0;
    VkImageLayout from = VK_IMAGE_LAYOUT_UNDEFINED, to = VK_IMAGE_LAYOUT_UNDEFINED;
};

/// Stages and barriers for one vkCmdPipelineBarrier.
struct Barriers {
    VkPipelineStageFlags before = 0, after = 0;
    std::vector<VkImageMemoryBarrier> images = {};

    [[nodiscard]] bool is_empty() const { return images.empty(); }
};

/// Queue families of a change of owner; equal ones mean that the owner stays.
struct Owners {
    std::uint32_t from = VK_QUEUE_FAMILY_IGNORED, to = VK_QUEUE_FAMILY_IGNORED;
};

/// The stages that sample textures in a program with these features.
[[nodiscard]] VkPipelineStageFlags reading_stages(const EnabledFeatures& features);

/// Where a queue waits for the copies of another: its commands that sample, and that copy on.
[[nodiscard]] constexpr VkPipelineStageFlags waiting_stages(VkPipelineStageFlags readers) {
    return readers | VK_PIPELINE_STAGE_TRANSFER_BIT;
}

/// Neighbouring levels with the same change share a barrier.
[[nodiscard]] Barriers barriers_for(VkImage image, const std::vector<LevelChange>& changes,
                                    VkPipelineStageFlags readers);

/// A change of owner: the half that releases the levels on the queue that copied, or the half that
/// acquires them on the queue that samples (Vulkan 1.3, section 7.7.4).
enum class Half { release, acquire };
[[nodiscard]] Barriers owner_barriers(VkImage image, const std::vector<LevelChange>& changes,
                                      VkPipelineStageFlags readers, const Owners& owners,
                                      Half half);

}  // namespace yl::vulkan
