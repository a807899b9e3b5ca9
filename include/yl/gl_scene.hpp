// Scenes drawn by a real OpenGL driver. Needs YellowLattice::gl.
#pragma once

#include <yl/cube_scene.hpp>
#include <yl/gl.hpp>
#include <yl/mesh_scene.hpp>
#include <yl/scene.hpp>

namespace yl::gl {

/// Draws what `yl::draw_scene` draws, with the texture and sampler that are on the device; gives
/// `rgba8-srgb`. Meant for a context of its own: program, framebuffer and viewport are changed.
[[nodiscard]] Result<Image> draw_scene(const Device& device, const Scene& scene,
                                       const GpuTexture& texture,
                                       AlphaMode alpha = AlphaMode::straight);

/// Draws what `yl::draw_cube_scene` draws, filtered across the cube's edges; gives `rgba8-srgb`.
[[nodiscard]] Result<Image> draw_cube_scene(const Device& device, const CubeScene& scene,
                                            const GpuTexture& cube);

/// Draws what `yl::draw_mesh` draws; gives `rgba8-srgb`. The scene's textures are uploaded for it.
[[nodiscard]] Result<Image> draw_mesh(const Device& device, const MeshScene& scene,
                                      const MeshView& view);

}  // namespace yl::gl
