// Half floats as nearly logarithms of 16 bits (Khronos Data Format Specification 1.3, section 23.19):
// 5 bits of exponent, and 11 of a mantissa that three lines bend.
#pragma once

#include <algorithm>
#include <cstdint>

namespace yl::astc {

inline constexpr unsigned greatest_half = 0x7BFF;

[[nodiscard]] inline std::uint16_t half_of_logarithm(unsigned value) {
    const unsigned exponent = value >> 11, mantissa = value & 0x7FFU;
    const unsigned bent = mantissa < 512     ? 3 * mantissa
                          : mantissa >= 1536 ? 5 * mantissa - 2048
                                             : 4 * mantissa - 512;
    return static_cast<std::uint16_t>(std::min(exponent << 10 | bent >> 3, greatest_half));
}

/// The least number whose half float is this one; 0 for negative ones.
[[nodiscard]] inline unsigned logarithm_of_half(std::uint16_t half) {
    if ((half & 0x8000U) != 0)
        return 0;
    const unsigned bits = std::min<unsigned>(half, greatest_half);
    const unsigned bent = (bits & 0x3FFU) << 3;
    const unsigned mantissa = bent < 1536   ? (bent + 2) / 3
                              : bent < 5632 ? (bent + 512) / 4
                                            : (bent + 2048 + 4) / 5;
    return bits >> 10 << 11 | mantissa;
}

}  // namespace yl::astc
