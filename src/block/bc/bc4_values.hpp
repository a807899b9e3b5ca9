// The eight values of a BC4 block (Khronos Data Format Specification 1.3, section 18.4).
//
//   bits  0 -  7  value 0
//         8 - 15  value 1
//        16 - 63  3 bits a texel, from the top left, row by row
//
// Value 0 above value 1: six values between them. Else four between them, and the two ends of the
// whole range.
#pragma once

#include <array>
#include <cstdint>

#include "base/bytes.hpp"

namespace yl::bc {

/// x / 7 and x / 5, rounded to the nearest, for 0 <= x <= 255 * 7.
constexpr std::uint32_t seventh(std::uint32_t x) {
    return (x + 3) * 9363U >> 16;
}
constexpr std::uint32_t fifth(std::uint32_t x) {
    return (x + 2) * 13108U >> 16;
}

[[nodiscard]] inline std::array<std::uint8_t, 8> unorm_values(const std::byte* block) {
    const auto a = std::to_integer<std::uint32_t>(block[0]);
    const auto b = std::to_integer<std::uint32_t>(block[1]);
    std::array<std::uint8_t, 8> values = {static_cast<std::uint8_t>(a),
                                          static_cast<std::uint8_t>(b)};
    if (a > b) {
        for (std::uint32_t i = 1; i < 7; ++i)
            values[i + 1] = static_cast<std::uint8_t>(seventh(a * (7 - i) + b * i));
    } else {
        for (std::uint32_t i = 1; i < 5; ++i)
            values[i + 1] = static_cast<std::uint8_t>(fifth(a * (5 - i) + b * i));
        values[7] = 255;
    }
    return values;
}

/// The same of signed values. -128 is as much as -127, but still the lesser of them.
[[nodiscard]] inline std::array<std::uint8_t, 8> snorm_values(const std::byte* block) {
    const auto signed_value = [](std::byte byte) {
        const int value = static_cast<std::int8_t>(byte);
        return value < -127 ? -127 : value;
    };
    const int a = signed_value(block[0]);
    const int b = signed_value(block[1]);
    const auto code = [](int value) { return static_cast<std::uint8_t>(value); };
    std::array<std::uint8_t, 8> values = {code(a), code(b)};
    // Raised by 127, so that numbers are never negative and round alike on both sides of 0.
    const auto between = [&](int i, int parts) {
        const auto sum = static_cast<std::uint32_t>((a + 127) * (parts - i) + (b + 127) * i);
        return code(static_cast<int>(parts == 7 ? seventh(sum) : fifth(sum)) - 127);
    };
    if (static_cast<std::int8_t>(block[0]) > static_cast<std::int8_t>(block[1])) {
        for (int i = 1; i < 7; ++i)
            values[static_cast<std::size_t>(i) + 1] = between(i, 7);
    } else {
        for (int i = 1; i < 5; ++i)
            values[static_cast<std::size_t>(i) + 1] = between(i, 5);
        values[6] = code(-127);
        values[7] = 127;
    }
    return values;
}

}  // namespace yl::bc
