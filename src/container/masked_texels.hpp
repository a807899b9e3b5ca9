// Texels packed under masks, widened to RGBA of 8 bits.
#pragma once

#include "codec/color_masks.hpp"
#include "container/texture_format.hpp"

namespace yl {

/// Rows of texels of `bytes` bytes each, one to four, whose alpha is 1 where it has no mask.
/// Numbers of the other byte order are turned round first.
[[nodiscard]] inline RowExpansion widened_masks(const ColorMasks& masks, std::uint32_t bytes,
                                                bool is_swapped = false) {
    return {
        bytes, [=](const std::byte* stored, std::byte* texels, std::size_t count) {
            for (std::size_t i = 0; i < count; ++i, stored += bytes, texels += 4) {
                std::uint32_t pixel = 0;
                for (std::uint32_t b = 0; b < bytes; ++b)
                    pixel |= std::to_integer<std::uint32_t>(stored[is_swapped ? bytes - 1 - b : b])
                             << 8 * b;
                for (std::size_t c = 0; c < 4; ++c)
                    texels[c] = std::byte{c == 3 && !masks[3].is_present() ? std::uint8_t{255}
                                                                           : masks[c].of(pixel)};
            }
        }};
}

}  // namespace yl
