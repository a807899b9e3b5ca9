// Cubes from and to panoramas and balls.
#pragma once

#include <yl/cube.hpp>

namespace yl {

/// Fills level 0 of the cube.
[[nodiscard]] Status resample_to_faces(ConstImageView picture, CubeLayout layout, Texture& cube);

/// Fills the picture; black outside a disc.
[[nodiscard]] Status resample_to_picture(const Texture& cube, std::uint32_t level,
                                         std::uint32_t layer, CubeLayout layout, ImageView picture);

}  // namespace yl
