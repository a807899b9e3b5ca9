// What stored numbers of endpoints and weights stand for (Khronos Data Format Specification 1.3,
// sections 23.14 and 23.17).
#pragma once

#include <array>
#include <cstdint>

#include "block/astc/integer_sequence.hpp"

namespace yl::astc {

/// Row r: the 8 bits of each number of range r of endpoints; rows of less than 6 levels are empty.
extern const std::array<std::array<std::uint8_t, 256>, 21> color_values;
/// Row r: the weight from 0 to 64 of each number of range r.
extern const std::array<std::array<std::uint8_t, 32>, weight_ranges> weight_values;
/// Row r: the number whose value is nearest to each 8 bits; of two the lower value.
[[nodiscard]] const std::array<std::array<std::uint8_t, 256>, 21>& color_numbers();
/// Row r: the number whose weight is nearest to 0 .. 64; of two the lower weight.
extern const std::array<std::array<std::uint8_t, 65>, weight_ranges> weight_numbers;

/// The number whose weight is the `rank`th from below.
[[nodiscard]] std::uint8_t weight_number_of_rank(unsigned range, unsigned rank);

}  // namespace yl::astc
