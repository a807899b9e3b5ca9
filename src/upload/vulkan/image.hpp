// An image with its memory, views, and the layout of each of its levels.
#pragma once

#include <vector>

#include "upload/vulkan/barriers.hpp"
#include "upload/vulkan/context.hpp"

namespace yl::vulkan {

struct ImageParts {
    OwnedMemory memory = {};
    ImageHandle image = {};                       ///< goes before its memory
    std::vector<ImageViewHandle> old_views = {};  ///< frames under way may use them
    ImageViewHandle view = {};
    std::vector<VkImageLayout> layouts = {};  ///< of each level
    std::uint64_t last_submission = 0;
    std::vector<std::shared_ptr<const SharedSampler>> further_samplers = {};  ///< it was used with

    /// Layouts that the levels have now and will have; keeps the new ones.
    [[nodiscard]] std::vector<LevelChange> change(std::uint32_t first, std::uint32_t count,
                                                  VkImageLayout to);
    [[nodiscard]] bool is_shown(std::uint32_t level) const {
        return layouts[level] == VK_IMAGE_LAYOUT_SHADER_READ_ONLY_OPTIMAL;
    }
};

/// Image and memory for a shape that fits the device; no view yet.
[[nodiscard]] Result<std::shared_ptr<ImageParts>> make_image(Context& context,
                                                             const TextureShape& shape,
                                                             const std::string& label,
                                                             VkImageUsageFlags further_usage);

[[nodiscard]] Result<ImageViewHandle> make_view(const Context& context, VkImage image,
                                                const TextureShape& shape, const Swizzle& swizzle,
                                                LevelRange levels);

/// One copy for each region, from the batch's staging memory at `offset`.
[[nodiscard]] std::vector<VkBufferImageCopy> copies_of(const UploadPlan& plan,
                                                       const UploadBatch& batch,
                                                       VkDeviceSize offset);

void record(const Functions& vk, VkCommandBuffer commands, const Barriers& barriers);

/// What copies have written becomes visible to the host, once the fence is there.
void record_host_read(const Functions& vk, VkCommandBuffer commands);

}  // namespace yl::vulkan
