// Directions to places in a panorama, by the million.
#pragma once

#include <array>
#include <cstddef>

namespace yl {

/// Directions `first + i step`.
struct RowOfDirections {
    std::array<float, 3> first{}, step{};
};

/// Where `count` directions lie in a panorama of this many texels, from its top left corner. Off by
/// less than a thousandth of a texel of the largest panoramas that can be read.
void panorama_places(const RowOfDirections& directions, float width, float height, float* x,
                     float* y, std::size_t count);
void panorama_places_plain(const RowOfDirections& directions, float width, float height, float* x,
                           float* y, std::size_t count);

}  // namespace yl
