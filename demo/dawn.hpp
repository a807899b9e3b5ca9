// The sky above the Glasshouse at dawn, as light from every side.
#pragma once

#include <array>
#include <string>
#include <vector>

#include <yl/cube.hpp>

namespace glasshouse {

/// Linear light from a direction: a low sun ahead to the left, clouds that it colours from below,
/// a hedge along the horizon, and the dark garden.
[[nodiscard]] std::array<double, 3> dawn_light(const yl::Direction& direction);

/// All six faces, each texel the mean of 2 x 2 directions; `rgb32-float`.
[[nodiscard]] yl::Result<std::vector<yl::Image>> dawn_faces(std::uint32_t size);

/// The same as a panorama, twice as wide as high.
[[nodiscard]] yl::Result<yl::Image> dawn_panorama(std::uint32_t width);

/// Writes the panorama (dawn.hdr), a cross (dawn_cross.exr) and six faces (dawn_right.hdr ...) of
/// which some have each other's names, or are turned or mirrored: right and front are exchanged,
/// the top is turned a quarter to the right, and the back is mirrored.
[[nodiscard]] yl::Status write_dawn(const std::string& folder);

}  // namespace glasshouse
