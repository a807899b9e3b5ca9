// One picture drawn without a window: a triangle, a texture, and a block of numbers.
#pragma once

#include <span>

#include <yl/image.hpp>
#include "upload/vulkan/context.hpp"

namespace yl::vulkan {

/// `fragment` is SPIR-V that finds the texture at binding 0 and the numbers at binding 1 of set 0.
/// Gives `rgba8-srgb`.
[[nodiscard]] Result<Image> draw_picture(Context& context, std::span<const std::uint32_t> fragment,
                                         std::uint32_t width, std::uint32_t height,
                                         const VkDescriptorImageInfo& texture,
                                         std::span<const float> numbers);

}  // namespace yl::vulkan
