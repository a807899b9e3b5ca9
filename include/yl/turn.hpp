// Pictures turned by quarters and mirrored.
#pragma once

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

/// The turned picture. Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] Result<Image> turned(ConstImageView image, Turn turn);

}  // namespace yl
