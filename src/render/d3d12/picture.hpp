// One picture drawn without a window: a triangle, a texture, and a block of numbers.
#pragma once

#include <span>

#include <yl/image.hpp>
#include "upload/d3d12/context.hpp"

namespace yl::d3d12 {

/// `pixel_shader` finds the numbers at b0, the texture at t0 and the sampler at s0. Gives
/// `rgba8-srgb`.
[[nodiscard]] Result<Image> draw_picture(Context& context, std::span<const std::byte> pixel_shader,
                                         std::uint32_t width, std::uint32_t height,
                                         const GpuTexture& texture, std::span<const float> numbers);

}  // namespace yl::d3d12
