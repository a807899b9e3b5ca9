// The eight values of a block of EAC (Khronos Data Format Specification 1.3, sections 21.3 to 21.5).
//
//   The block is a number of 64 bits whose first byte is the highest.
//   bits 63 - 56  base value
//        55 - 52  multiplier
//        51 - 48  number of the row of modifiers
//        47 -  0  3 bits a texel, from the top left, column by column
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>

#include "base/bytes.hpp"

namespace yl::etc {

inline constexpr std::int8_t modifiers[16][8] = {
    {-3, -6, -9, -15, 2, 5, 8, 14}, {-3, -7, -10, -13, 2, 6, 9, 12}, {-2, -5, -8, -13, 1, 4, 7, 12},
    {-2, -4, -6, -13, 1, 3, 5, 12}, {-3, -6, -8, -12, 2, 5, 7, 11},  {-3, -7, -9, -11, 2, 6, 8, 10},
    {-4, -7, -8, -11, 3, 6, 7, 10}, {-3, -5, -8, -11, 2, 4, 7, 10},  {-2, -6, -8, -10, 1, 5, 7, 9},
    {-2, -5, -8, -10, 1, 4, 7, 9},  {-2, -4, -8, -10, 1, 3, 7, 9},   {-2, -5, -7, -10, 1, 4, 6, 9},
    {-3, -4, -7, -10, 2, 3, 6, 9},  {-1, -2, -3, -10, 0, 1, 2, 9},   {-4, -6, -8, -9, 3, 5, 7, 8},
    {-3, -5, -7, -9, 2, 4, 6, 8}};

/// The same, index by index, as vectors look them up.
inline constexpr auto modifiers_by_index = [] {
    std::array<std::array<float, 16>, 8> table{};
    for (std::size_t index = 0; index < 8; ++index)
        for (std::size_t row = 0; row < 16; ++row)
            table[index][row] = modifiers[row][index];
    return table;
}();

[[nodiscard]] inline std::uint64_t word_of(const std::byte* block) {
    return swap_bytes(load<std::uint64_t>(block));
}

/// How the values of a block come from its base: of alpha (8 bits), or of a channel of 11 bits.
enum class EacKind { alpha, unorm11, snorm11 };

[[nodiscard]] constexpr int eac_min(EacKind kind) {
    return kind == EacKind::snorm11 ? -1023 : 0;
}

[[nodiscard]] constexpr int eac_max(EacKind kind) {
    return kind == EacKind::alpha ? 255 : kind == EacKind::unorm11 ? 2047 : 1023;
}

/// What the modifiers are added to.
[[nodiscard]] constexpr int eac_center(EacKind kind, std::uint32_t base) {
    switch (kind) {
        case EacKind::alpha:
            return static_cast<int>(base);
        case EacKind::unorm11:
            return static_cast<int>(base) * 8 + 4;
        case EacKind::snorm11:
            return std::max<int>(static_cast<std::int8_t>(base), -127) * 8;
    }
    return 0;
}

/// How much a modifier of 1 adds.
[[nodiscard]] constexpr int eac_step(EacKind kind, std::uint32_t multiplier) {
    const int steps = static_cast<int>(multiplier);
    return kind == EacKind::alpha ? steps : multiplier == 0 ? 1 : steps * 8;
}

[[nodiscard]] inline std::array<int, 8> eac_values(EacKind kind, std::uint64_t word) {
    const int center = eac_center(kind, static_cast<std::uint32_t>(word >> 56));
    const int step = eac_step(kind, static_cast<std::uint32_t>(word >> 52 & 15U));
    const auto& row = modifiers[word >> 48 & 15U];
    std::array<int, 8> values{};
    for (std::size_t i = 0; i < 8; ++i)
        values[i] = std::clamp(center + row[i] * step, eac_min(kind), eac_max(kind));
    return values;
}

/// The index of a texel.
[[nodiscard]] constexpr std::uint32_t eac_index(std::uint64_t word, std::uint32_t x,
                                                std::uint32_t y) {
    return static_cast<std::uint32_t>(word >> (45 - 3 * (4 * x + y)) & 7U);
}

}  // namespace yl::etc
