// Texel coordinates beyond the image's edge.
#pragma once

#include <algorithm>
#include <cmath>
#include <cstdint>

#include <yl/sampler.hpp>

namespace yl {

/// Stands for "outside: the border colour".
inline constexpr std::int64_t border_texel = -1;

/// The texel that is read for texel `i` of an axis of `size` texels (OpenGL 4.6, table 8.20).
[[nodiscard]] inline std::int64_t wrap_texel(Wrap wrap, std::int64_t i, std::int64_t size) {
    switch (wrap) {
        case Wrap::repeat: {
            const std::int64_t rest = i % size;
            return rest < 0 ? rest + size : rest;
        }
        case Wrap::mirror: {
            std::int64_t rest = i % (2 * size);
            if (rest < 0)
                rest += 2 * size;
            return rest < size ? rest : 2 * size - 1 - rest;
        }
        case Wrap::clamp_to_edge:
            return std::clamp<std::int64_t>(i, 0, size - 1);
        case Wrap::clamp_to_border:
            return i < 0 || i >= size ? border_texel : i;
        case Wrap::mirror_once:
            return std::min(i < 0 ? -1 - i : i, size - 1);
    }
    return 0;
}

/// Brings a coordinate near the image without changing what it means, so that huge coordinates
/// keep their precision and fit an integer.
[[nodiscard]] inline float reduce_coordinate(Wrap wrap, float coordinate) {
    if (!(coordinate - coordinate == 0.0F))
        return 0.0F;  // not finite
    switch (wrap) {
        case Wrap::repeat:
            return coordinate - std::floor(coordinate);
        case Wrap::mirror:
            return coordinate - 2.0F * std::floor(coordinate * 0.5F);
        default:
            return std::clamp(coordinate, -2.0F, 3.0F);
    }
}

}  // namespace yl
