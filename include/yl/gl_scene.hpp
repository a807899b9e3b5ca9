// Scenes drawn by a real OpenGL driver. Needs YellowLattice::gl.
#pragma once

#include <yl/api.hpp>
#include <yl/gl.hpp>
#include <yl/model_scene.hpp>
#include <yl/scene.hpp>

namespace yl::gl {

/// Draws what `yl::draw_scene` draws, with the texture and sampler that are on the device; gives
/// `rgba8-srgb`. Meant for a context of its own: program, framebuffer and viewport are changed.
/// Fails with `ErrorKind::device` when OpenGL refuses.
[[nodiscard]] YL_API Result<Image> draw_scene(const Device& device, const Scene& scene,
                                              const GpuTexture& texture,
                                              AlphaMode alpha = AlphaMode::straight);

/// Draws what `yl::draw_cube_scene` draws, filtered across the cube's edges; gives `rgba8-srgb`.
/// Fails as `draw_scene` does.
[[nodiscard]] YL_API Result<Image> draw_cube_scene(const Device& device, const CubeScene& scene,
                                                   const GpuTexture& cube);

/// Draws what `yl::draw_model` draws; gives `rgba8-srgb`. The scene's textures are uploaded for it.
/// Fails as `Device::upload` and `draw_scene` do.
[[nodiscard]] YL_API Result<Image> draw_model(const Device& device, const ModelScene& scene,
                                              const ModelView& view);

}  // namespace yl::gl
