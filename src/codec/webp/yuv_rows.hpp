// Colours out of luminance and two differences at half its size, row by row.
#pragma once

#include "codec/webp/lossy.hpp"

namespace yl::webp {

/// Differences are spread over the picture by a triangle filter (3/4 of the nearest sample, 1/4 of
/// the next, in both directions); colours are those of ITU-R BT.601 in its narrow range.
class ColorRows {
 public:
    explicit ColorRows(const Planes& planes);

    /// Writes red, green, blue of row `y`; pixels are `step` bytes apart.
    void convert(std::uint32_t y, std::byte* to, std::size_t step);

 private:
    const Planes& planes_;
    std::vector<std::uint16_t> mixed_;  ///< of two rows of a difference, times 4
    std::vector<std::uint8_t> u_, v_;   ///< a row of the full width each
};

}  // namespace yl::webp
