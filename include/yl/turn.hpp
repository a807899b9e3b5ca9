// Pictures turned by quarters and mirrored.
#pragma once

#include <array>
#include <string_view>
#include <yl/image.hpp>

namespace yl {

/// The eight ways to lay a rectangle on itself; the values are the orientation numbers of
/// EXIF 2.32, each naming what has to be done to see the picture upright.
enum class Turn : std::uint8_t {
    none = 1,
    mirror = 2,  ///< left and right exchanged
    half = 3,
    flip = 4,           ///< top and bottom exchanged
    transpose = 5,      ///< rows become columns
    quarter_right = 6,  ///< clockwise
    transverse = 7,     ///< rows become columns, both in opposite order
    quarter_left = 8,
};

/// "a quarter to the right" ...
[[nodiscard]] std::string_view name(Turn turn);

/// What both do, one after the other; and what undoes one.
[[nodiscard]] Turn combined(Turn first, Turn second);
[[nodiscard]] Turn inverse(Turn turn);

/// Whether letters come out mirrored.
[[nodiscard]] constexpr bool mirrors(Turn turn) {
    return turn == Turn::mirror || turn == Turn::flip || turn == Turn::transpose ||
           turn == Turn::transverse;
}

inline constexpr std::array<Turn, 8> all_turns = {
    Turn::none,   Turn::quarter_right, Turn::half,      Turn::quarter_left,
    Turn::mirror, Turn::flip,          Turn::transpose, Turn::transverse};

/// Where the texel comes from that lies at (x, y) of the turned picture; width and height are those
/// of the picture before.
[[nodiscard]] std::array<std::uint32_t, 2> turned_from(Turn turn, std::uint32_t x, std::uint32_t y,
                                                       std::uint32_t width, std::uint32_t height);

/// The turned picture. Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] Result<Image> turned(ConstImageView image, Turn turn);

}  // namespace yl
