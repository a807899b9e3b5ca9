// Which blocks of a picture share their prefix codes.
#pragma once

#include "codec/webp/histogram.hpp"

namespace yl::webp {

struct Groups {
    unsigned block_bits = 0;
    std::vector<std::uint32_t> of_block{};  ///< empty: there is but one group
    std::vector<Histogram> histograms{};
};

/// Blocks of a side of 2^block_bits in groups that are alike, by repeated assignment (Lloyd, "Least
/// squares quantization in PCM", 1982) of each to the group whose codes suit it best. One group,
/// where more would save nothing.
[[nodiscard]] Groups groups_of(std::span<const Token> tokens, std::uint32_t width,
                               std::uint32_t height, unsigned cache_bits, unsigned block_bits,
                               unsigned max_groups);

}  // namespace yl::webp
