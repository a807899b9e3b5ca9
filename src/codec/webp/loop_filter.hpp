// Smoothing the edges between blocks (RFC 6386, section 15).
#pragma once

#include "codec/webp/lossy.hpp"

namespace yl::webp {

/// How much a macroblock's edges are smoothed.
struct FilterStrength {
    std::uint8_t level = 0;  ///< 0: not at all
    std::uint8_t interior = 0;
    std::uint8_t high_variance = 0;
    bool has_inner_edges = false;
};

[[nodiscard]] FilterStrength filter_strength(int level, int sharpness);

/// Of the macroblock in this column and row, of luminance alone.
void filter_simple(Planes& planes, std::uint32_t column, std::uint32_t row,
                   FilterStrength strength);
/// Of all components.
void filter_normal(Planes& planes, std::uint32_t column, std::uint32_t row,
                   FilterStrength strength);

}  // namespace yl::webp
