// A light cube of half the size.
#pragma once

#include <yl/resize.hpp>
#include "cube/light_cube.hpp"

namespace yl {

/// Filtered across edges and corners, each texel weighed by the part of the sphere that it covers.
/// Two texels a face are gathered around their directions, and one texel a face is the mean of all.
[[nodiscard]] LightCube smaller_light_cube(const LightCube& light, const Kernel& kernel);

}  // namespace yl
