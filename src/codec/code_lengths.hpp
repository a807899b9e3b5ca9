// Prefix codes of bounded length, as good as can be.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace yl {

/// The length of each symbol's code, 0 for those that do not occur, by how often they do
/// (package-merge: Larmore and Hirschberg, "A fast algorithm for optimal length-limited Huffman
/// codes", 1990). One symbol alone gets the length 1. There is room for all: at most 2^max_length
/// symbols occur.
[[nodiscard]] std::vector<std::uint8_t> code_lengths(std::span<const std::uint32_t> counts,
                                                     unsigned max_length);

}  // namespace yl
