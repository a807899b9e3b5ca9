// Colours out of luminance and two differences at half its size, row by row.
#pragma once

#include <vector>

#include "codec/webp/lossy.hpp"

namespace yl::webp {

/// Differences are spread over the picture by a triangle filter (3/4 of the nearest sample, 1/4 of
/// the next, in both directions); colours are those of ITU-R BT.601 in its narrow range.
class ColorRows {
 public:
    explicit ColorRows(const Planes& planes);

    /// Writes red, green, blue of row `y`, or these and an alpha of 255.
    void convert(std::uint32_t y, std::byte* to, std::size_t channels);

 private:
    const Planes& planes_;
    std::vector<std::uint16_t> mixed_;  ///< of two rows of a difference, times 4
    std::vector<std::uint8_t> u_, v_;   ///< a row of the full width each
};

/// `count` samples of two rows, three of the near one and one of the far one.
void mix(const std::uint8_t* near, const std::uint8_t* far, std::size_t count, std::uint16_t* to);
void mix_plain(const std::uint8_t* near, const std::uint8_t* far, std::size_t count,
               std::uint16_t* to);

/// Twice as many samples as there are mixed ones, but for one before the first and one behind the
/// last: (3 a + b) / 16, with a the nearest and b the next.
void spread(const std::uint16_t* mixed, std::size_t count, std::uint8_t* to);
void spread_plain(const std::uint16_t* mixed, std::size_t count, std::uint8_t* to);

/// Numbers behind the point have 14 bits at first, 6 after a product's lowest 8 are dropped.
struct ColorFactors {
    static constexpr std::uint16_t luma = 19077;      // 255 / 219
    static constexpr std::uint16_t red_of_v = 26149;  // 1.402 * 255 / 224
    static constexpr std::uint16_t green_of_u = 6419, green_of_v = 13320;
    static constexpr std::uint16_t blue_of_u = 33050;  // 1.772 * 255 / 224
    // What black and the middle of the differences come to, less half a code.
    static constexpr std::uint16_t red_offset = 14234, green_offset = 8708, blue_offset = 17685;
};

void to_colors(const std::uint8_t* y, const std::uint8_t* u, const std::uint8_t* v,
               std::size_t count, std::byte* to, std::size_t channels);
void to_colors_plain(const std::uint8_t* y, const std::uint8_t* u, const std::uint8_t* v,
                     std::size_t count, std::byte* to, std::size_t channels);

}  // namespace yl::webp
