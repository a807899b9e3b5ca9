// Scenes drawn by a Direct3D 12 device. Needs YellowLattice::d3d12.
#pragma once

#include <yl/api.hpp>
#include <yl/d3d12.hpp>
#include <yl/scene.hpp>

namespace yl::d3d12 {

/// Draws what `yl::draw_scene` draws, with the texture and sampler that are on the device; gives
/// `rgba8-srgb`.
/// Fails with `ErrorKind::device` when Direct3D refuses.
[[nodiscard]] YL_API Result<Image> draw_scene(Device& device, const Scene& scene,
                                              const GpuTexture& texture,
                                              AlphaMode alpha = AlphaMode::straight);

/// Draws what `yl::draw_cube_scene` draws, filtered across the cube's edges; gives `rgba8-srgb`.
/// Fails with `ErrorKind::usage` without a cube map, and with `device` when Direct3D refuses.
[[nodiscard]] YL_API Result<Image> draw_cube_scene(Device& device, const CubeScene& scene,
                                                   const GpuTexture& cube);

}  // namespace yl::d3d12
