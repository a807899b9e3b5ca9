#include "upload/keeper/reduce.hpp"

#include <algorithm>

namespace yl {

std::optional<std::uint32_t> levels_to_drop(const TextureShape& shape, std::uint64_t bytes) {
    for (std::uint32_t levels = 0; levels < shape.levels; ++levels)
        if (shape_without_top_levels(shape, levels).total_bytes() <= bytes)
            return levels;
    return std::nullopt;
}

}  // namespace yl
