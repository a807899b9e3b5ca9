// The four colours of a block of BC1 (Khronos Data Format Specification 1.3, section 18.1).
//
//   bits  0 - 15  colour 0, 5 bits of blue lowest, 6 of green, 5 of red
//        16 - 31  colour 1
//        32 - 63  2 bits a texel, from the top left, row by row
#pragma once

#include <array>
#include <cstdint>

#include "base/bytes.hpp"

namespace yl::bc {

using Palette = std::array<std::uint32_t, 4>;

enum class ColorForm { by_order, by_order_with_cut_out, four_colors };

inline constexpr std::uint32_t opaque = 0xFF000000U;
inline constexpr std::uint32_t color_bits = 0xFFFFFFU;

/// Red, green and blue, each with 16 bits to be worked in.
[[nodiscard]] inline std::uint64_t spread(std::uint32_t color) {
    const std::uint32_t red = color >> 11;
    const std::uint32_t green = color >> 5 & 63U;
    const std::uint32_t blue = color & 31U;
    return std::uint64_t{red << 3 | red >> 2} | std::uint64_t{green << 2 | green >> 4} << 16 |
           std::uint64_t{blue << 3 | blue >> 2} << 32;
}

[[nodiscard]] inline std::uint32_t gathered(std::uint64_t spread) {
    return static_cast<std::uint32_t>((spread & 0xFFU) | (spread >> 8 & 0xFF00U) |
                                      (spread >> 16 & 0xFF0000U));
}

/// (2 a + b) / 3, rounded to the nearest, in each of three channels.
[[nodiscard]] inline std::uint64_t third(std::uint64_t a, std::uint64_t b) {
    const std::uint64_t sum = 2 * a + b + 0x0001'0001'0001U;
    // x / 3 for x <= 766 is x * 171 / 512, rounded down; the products need more than 16 bits.
    const auto divide = [&](unsigned shift) {
        return ((sum >> shift & 0xFFFFU) * 171U >> 9) << shift;
    };
    return divide(0) | divide(16) | divide(32);
}

[[nodiscard]] inline std::uint64_t half(std::uint64_t a, std::uint64_t b) {
    return (a + b + 0x0001'0001'0001U) >> 1 & 0x00FF'00FF'00FFU;
}

[[nodiscard]] inline Palette palette_of(const std::byte* block, ColorForm form) {
    const auto c0 = load<std::uint16_t>(block);
    const auto c1 = load<std::uint16_t>(block + 2);
    const std::uint64_t a = spread(c0);
    const std::uint64_t b = spread(c1);
    if (form == ColorForm::four_colors || c0 > c1)
        return {gathered(a) | opaque, gathered(b) | opaque, gathered(third(a, b)) | opaque,
                gathered(third(b, a)) | opaque};
    return {gathered(a) | opaque, gathered(b) | opaque, gathered(half(a, b)) | opaque,
            form == ColorForm::by_order_with_cut_out ? 0 : opaque};
}

}  // namespace yl::bc
