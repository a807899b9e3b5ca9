// Bounded integer sequence encoding (Khronos Data Format Specification 1.3, section 23.8): numbers
// of a range whose size is a power of two, or 3 or 5 times one. The trits of five numbers share 8
// bits, the quints of three share 7; each number's own bits come before a piece of these:
//
//   five numbers with trits   m0 T0 T1  m1 T2 T3  m2 T4  m3 T5 T6  m4 T7
//   three with quints         m0 Q0 Q1 Q2  m1 Q3 Q4  m2 Q5 Q6
#pragma once

#include <array>
#include <cstdint>

#include "block/astc/block_bits.hpp"

namespace yl::astc {

struct SequenceRange {
    std::uint16_t levels;  ///< numbers are 0 .. levels - 1
    std::uint8_t bits;     ///< of a number on its own
    std::uint8_t base;     ///< 3 with trits, 5 with quints, or 1
};

inline constexpr std::array<SequenceRange, 21> sequence_ranges = {{
    {2, 1, 1},  {3, 0, 3},  {4, 2, 1},  {5, 0, 5},   {6, 1, 3},   {8, 3, 1},   {10, 1, 5},
    {12, 2, 3}, {16, 4, 1}, {20, 2, 5}, {24, 3, 3},  {32, 5, 1},  {40, 3, 5},  {48, 4, 3},
    {64, 6, 1}, {80, 4, 5}, {96, 5, 3}, {128, 7, 1}, {160, 5, 5}, {192, 6, 3}, {256, 8, 1},
}};
inline constexpr unsigned weight_ranges = 12;     ///< the first ones, up to 32 levels
inline constexpr unsigned least_color_range = 4;  ///< 6 levels
inline constexpr unsigned greatest_color_range = 20;

/// Bits that `count` numbers take.
[[nodiscard]] constexpr unsigned sequence_bits(unsigned range, unsigned count) {
    const SequenceRange& r = sequence_ranges[range];
    const unsigned own = count * r.bits;
    return r.base == 3 ? own + (8 * count + 4) / 5 : r.base == 5 ? own + (7 * count + 2) / 3 : own;
}

/// Reads `count` numbers from bit `begin`.
void read_sequence(const BlockBits& block, unsigned begin, unsigned range, unsigned count,
                   std::uint8_t* numbers);

/// Writes them.
void write_sequence(BlockBits& block, unsigned begin, unsigned range, unsigned count,
                    const std::uint8_t* numbers);

}  // namespace yl::astc
