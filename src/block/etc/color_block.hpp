// The colours of a block of ETC2 (Khronos Data Format Specification 1.3, chapters 20 and 21).
//
//   The block is a number of 64 bits whose first byte is the highest. In all forms but the planar
//   one, bits 31 - 16 are the high bits of the texels' indices, and bits 15 - 0 the low ones, from
//   the top left, column by column, the first texel lowest.
//
//                  63    60 59    56 55    52 51    48 47    44 43    40 39  37 36  34 33 32
//   individual     red 1    red 2    green 1  green 2  blue 1   blue 2   row 1  row 2  0  flip
//
//                  63      59 58 56 55      51 50 48 47      43 42 40 39  37 36  34 33 32
//   differential   red        +red  green      +green blue     +blue  row 1  row 2  1  flip
//
//   The sums of the differential form that leave 0 .. 31 make three other forms, of the first of
//   these channels that does: T by red, H by green, planar by blue.
//
//   bits           high to low
//   T              60 59 57 56 red 1   55 - 52 green 1   51 - 48 blue 1
//                  47 - 44 red 2   43 - 40 green 2   39 - 36 blue 2   35 34 32 distance
//   H              62 - 59 red 1   58 - 56 52 green 1   51 49 - 47 blue 1
//                  46 - 43 red 2   42 - 39 green 2   38 - 35 blue 2   34 32 distance
//   planar         62 - 57 red O   56 54 - 49 green O   48 44 43 41 - 39 blue O
//                  38 - 34 32 red H   31 - 25 green H   24 - 19 blue H
//                  18 - 13 red V   12 - 6 green V   5 - 0 blue V
//
//   With alpha at cut-outs, bit 33 says that the block is opaque, and all forms but the individual
//   one exist. In blocks that are not opaque, index 2 is transparent black.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>

namespace yl::etc {

using Color = std::array<int, 3>;

/// What indices 0 and 1 add in each half; 2 and 3 subtract it.
inline constexpr std::uint8_t intensities[8][2] = {{2, 8},   {5, 17},  {9, 29},   {13, 42},
                                                   {18, 60}, {24, 80}, {33, 106}, {47, 183}};

/// Between the colours of the forms T and H.
inline constexpr std::uint8_t distances[8] = {3, 6, 11, 16, 23, 32, 41, 64};

/// The same numbers, as vectors look them up.
inline constexpr std::array<float, 8> small_intensities = {2, 5, 9, 13, 18, 24, 33, 47};
inline constexpr std::array<float, 8> large_intensities = {8, 17, 29, 42, 60, 80, 106, 183};
inline constexpr std::array<float, 8> float_distances = {3, 6, 11, 16, 23, 32, 41, 64};

/// `count` bits of a word, the lowest of them at `lowest`.
[[nodiscard]] constexpr std::uint32_t bits_at(std::uint64_t word, unsigned lowest, unsigned count) {
    return static_cast<std::uint32_t>(word >> lowest) & ((1U << count) - 1U);
}

/// A number of `bits` bits as one of 8, its highest bits repeated below.
[[nodiscard]] constexpr int widened(std::uint32_t value, unsigned bits) {
    return static_cast<int>(value << (8 - bits) | value >> (2 * bits - 8));
}

[[nodiscard]] constexpr int within_byte(int value) {
    return std::clamp(value, 0, 255);
}

[[nodiscard]] constexpr std::uint32_t packed(const Color& color) {
    return static_cast<std::uint32_t>(within_byte(color[0]) | within_byte(color[1]) << 8 |
                                      within_byte(color[2]) << 16);
}

[[nodiscard]] constexpr std::uint32_t packed(const Color& color, int added) {
    return packed(Color{color[0] + added, color[1] + added, color[2] + added});
}

/// A code of the second colour of the differential form; one beyond 0 .. 31 makes another form.
[[nodiscard]] constexpr int second_code(std::uint64_t word, unsigned channel) {
    const auto first = static_cast<int>(bits_at(word, 59 - 8 * channel, 5));
    const auto step = static_cast<int>(bits_at(word, 56 - 8 * channel, 3));
    return first + (step < 4 ? step : step - 8);
}

/// Whether a block without alpha has a form that ETC1 lacks.
[[nodiscard]] constexpr bool is_beyond_etc1(std::uint64_t word) {
    if (bits_at(word, 33, 1) == 0)
        return false;
    for (unsigned channel = 0; channel < 3; ++channel)
        if (const int code = second_code(word, channel); code < 0 || code > 31)
            return true;
    return false;
}

/// The index of a texel.
[[nodiscard]] constexpr std::uint32_t color_index(std::uint64_t word, std::uint32_t x,
                                                  std::uint32_t y) {
    const std::uint32_t at = 4 * x + y;
    return (static_cast<std::uint32_t>(word >> (16 + at)) & 1U) << 1U |
           (static_cast<std::uint32_t>(word >> at) & 1U);
}

}  // namespace yl::etc
