#include "upload/keeper/reduce.hpp"

#include <algorithm>

#include "base/attempt.hpp"

namespace yl {

TextureShape shape_without_top_levels(const TextureShape& shape, std::uint32_t levels) {
    const std::uint32_t dropped = std::min(levels, shape.levels - 1);
    TextureShape rest = shape;
    rest.is_3d = shape.dimensions() == 3;  // although its depth may have become 1
    rest.width = shape.width_at(dropped);
    rest.height = shape.height_at(dropped);
    rest.depth = shape.depth_at(dropped);
    rest.levels = shape.levels - dropped;
    if (rest.depth > 1)
        rest.is_3d = shape.is_3d;
    return rest;
}

Result<Texture> without_top_levels(const Texture& texture, std::uint32_t levels) {
    YL_TRY(Texture rest, Texture::create(shape_without_top_levels(texture.shape(), levels),
                                         {.greatest_side = ~0U, .greatest_bytes = ~0ULL}));
    rest.traits = texture.traits;
    const std::uint32_t dropped = texture.shape().levels - rest.shape().levels;
    for (std::uint32_t level = 0; level < rest.shape().levels; ++level)
        std::ranges::copy(texture.level(level + dropped), rest.level(level).begin());
    return rest;
}

std::optional<std::uint32_t> levels_to_drop(const TextureShape& shape, std::uint64_t bytes) {
    for (std::uint32_t levels = 0; levels < shape.levels; ++levels)
        if (shape_without_top_levels(shape, levels).total_bytes() <= bytes)
            return levels;
    return std::nullopt;
}

}  // namespace yl
