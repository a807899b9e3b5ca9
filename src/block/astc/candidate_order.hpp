// The first candidates of each list, as numbers of block modes: of blocks as a whole, in two parts and
// in two planes, with both ends and then with one end and its scale. 0 is no mode.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

#include "block/astc/block_mode.hpp"

namespace yl::astc {

inline constexpr std::size_t ordered_candidates = 48;

using CandidateOrder = std::array<std::array<std::uint16_t, ordered_candidates>, 6>;

}  // namespace yl::astc
