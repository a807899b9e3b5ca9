// Footprints, and the 11 bits that say what weights a block has (Khronos Data Format Specification
// 1.3, section 23.10).
#pragma once

#include <array>
#include <cstdint>

namespace yl::astc {

/// How many texels a block covers.
struct Footprint {
    std::uint8_t width, height;

    [[nodiscard]] constexpr unsigned texels() const { return unsigned{width} * height; }
    friend constexpr bool operator==(Footprint, Footprint) = default;
};

inline constexpr std::array<Footprint, 14> footprints = {{{4, 4},
                                                          {5, 4},
                                                          {5, 5},
                                                          {6, 5},
                                                          {6, 6},
                                                          {8, 5},
                                                          {8, 6},
                                                          {8, 8},
                                                          {10, 5},
                                                          {10, 6},
                                                          {10, 8},
                                                          {10, 10},
                                                          {12, 10},
                                                          {12, 12}}};
inline constexpr unsigned most_texels = 144;
inline constexpr unsigned most_weights = 64;
inline constexpr unsigned most_colors = 18;  ///< numbers of endpoints
inline constexpr unsigned block_bits = 128;

/// The grid of weights of a block.
struct BlockMode {
    std::uint8_t width = 0, height = 0;  ///< 0: reserved
    std::uint8_t range = 0;              ///< of `sequence_ranges`
    bool has_two_planes = false;
    std::uint8_t count = 0;  ///< weights of all planes
    std::uint8_t bits = 0;   ///< that they take

    [[nodiscard]] constexpr bool fits(Footprint footprint) const {
        return width != 0 && width <= footprint.width && height <= footprint.height;
    }
};

inline constexpr unsigned block_modes = 2048;
inline constexpr unsigned void_extent_bits = 0x1FC;  ///< the lowest 9 bits of a block of one colour

/// What each 11 bits mean in two dimensions.
[[nodiscard]] const std::array<BlockMode, block_modes>& all_block_modes();

}  // namespace yl::astc
