// One working pixel in a register: four floats that are reckoned with at once.
#pragma once

#include <cstring>

namespace yl {

/// Both compilers have arithmetic for these; sums are made in the order they are written in.
using Pixel = float __attribute__((vector_size(16)));

[[nodiscard]] inline Pixel load_pixel(const float* from) {
    Pixel pixel;
    std::memcpy(&pixel, from, sizeof pixel);
    return pixel;
}

inline void store_pixel(Pixel pixel, float* to) {
    std::memcpy(to, &pixel, sizeof pixel);
}

[[nodiscard]] inline Pixel min_of(Pixel a, Pixel b) {
    return a < b ? a : b;
}

[[nodiscard]] inline Pixel max_of(Pixel a, Pixel b) {
    return a > b ? a : b;
}

}  // namespace yl
