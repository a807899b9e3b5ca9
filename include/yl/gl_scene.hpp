// Scenes drawn by a real OpenGL driver. Needs YellowLattice::gl.
#pragma once

#include <yl/gl.hpp>
#include <yl/scene.hpp>

namespace yl::gl {

/// Draws what `yl::draw_scene` draws, with the texture and sampler that are on the device; gives
/// `rgba8-srgb`. Meant for a context of its own: program, framebuffer and viewport are changed.
[[nodiscard]] Result<Image> draw_scene(const Device& device, const Scene& scene,
                                       const GpuTexture& texture,
                                       AlphaMode alpha = AlphaMode::straight);

}  // namespace yl::gl
