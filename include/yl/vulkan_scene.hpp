// Scenes drawn by a real Vulkan driver. Needs YellowLattice::vulkan.
#pragma once

#include <yl/api.hpp>
#include <yl/scene.hpp>
#include <yl/vulkan.hpp>

namespace yl::vulkan {

/// Draws what `yl::draw_scene` draws, with the texture and sampler that are on the device; gives
/// `rgba8-srgb`.
/// Fails with `ErrorKind::device` when Vulkan refuses.
[[nodiscard]] YL_API Result<Image> draw_scene(Device& device, const Scene& scene,
                                              const GpuTexture& texture,
                                              AlphaMode alpha = AlphaMode::straight);

/// Draws what `yl::draw_cube_scene` draws, filtered across the cube's edges; gives `rgba8-srgb`.
/// Fails as `draw_scene` does.
[[nodiscard]] YL_API Result<Image> draw_cube_scene(Device& device, const CubeScene& scene,
                                                   const GpuTexture& cube);

}  // namespace yl::vulkan
