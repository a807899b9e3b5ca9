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

/// Smooths the edges of the macroblock in this column and row: of luminance alone where that is
/// simple, else of all components. Those before it are done.
void filter_edges(Planes& planes, std::uint32_t column, std::uint32_t row, FilterStrength strength,
                  bool is_simple);
void filter_edges_plain(Planes& planes, std::uint32_t column, std::uint32_t row,
                        FilterStrength strength, bool is_simple);

/// How far samples may be apart across an edge within a macroblock, and at its border.
[[nodiscard]] constexpr int inner_limit(const FilterStrength& strength) {
    return 2 * strength.level + strength.interior;
}
[[nodiscard]] constexpr int outer_limit(const FilterStrength& strength) {
    return inner_limit(strength) + 4;
}

}  // namespace yl::webp
