// Pictures changed: alpha, channels, crops, quarter turns and mirrors.
//
//     yl::Image upright =
//         yl::or_exit(yl::with_orientation(image.view(), yl::Orientation::quarter_right));
//     yl::ConstImageView part = yl::or_exit(yl::cropped(upright.view(), {16, 16, 64, 64}));
#pragma once

#include <array>
#include <span>
#include <string_view>
#include <yl/api.hpp>
#include <yl/convert.hpp>
#include <yl/image.hpp>
#include <yl/texture.hpp>

namespace yl {

/// Colour times alpha, in linear light; `transfer` is that of colours whose format does not say it.
/// All of these fail with `ErrorKind::usage` when the format has no alpha channel.
[[nodiscard]] YL_API Status premultiply(ImageView image, Transfer transfer);

/// The way back; where alpha is 0, colour is lost and stays black.
/// Fails as `premultiply` does.
[[nodiscard]] YL_API Status unpremultiply(ImageView image, Transfer transfer);

/// Lays straight colours over one colour, in linear light; alpha becomes 1.
/// Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] YL_API Status composite_over(ImageView image,
                                           const std::array<float, 3>& linear_color,
                                           Transfer transfer);

/// Gives every wholly transparent pixel the colour of the nearest pixel that is not, so that
/// filters bring in no dark fringe; alpha stays as it is. Distances are Euclidean (Danielsson,
/// "Euclidean Distance Mapping", 1980, with both directions of each row).
/// Fails with `ErrorKind::unsupported` for block formats, and for formats without alpha.
[[nodiscard]] YL_API Status bleed_colors(ImageView image);

/// Multiplies alpha by the first channel of `mask`, as stored; straight colours stay as they are.
/// Fails with `ErrorKind::usage` when the sizes differ.
[[nodiscard]] YL_API Status mask_by(ImageView image, ConstImageView mask);

/// What one channel of a packed image is filled with: a channel of some image as its numbers are
/// stored, or one number.
struct ChannelSource {
    ConstImageView image = {};  ///< of `width` 0: none, `value` is meant
    Channel channel = Channel::red;
    bool inverted = false;  ///< 1 - value
    float value = 0;        ///< 0 .. 1
};

/// One to four channels of as many sources, which have the same size: occlusion, roughness and
/// metalness in one image, say. Numbers are copied as they are stored, without any colour curve;
/// depth is 16 bits if any source has more than 8, else 8. Fails with `ErrorKind::usage` when there
/// are no images, or their sizes differ.
[[nodiscard]] YL_API Result<Image> pack_channels(std::span<const ChannelSource> sources);

/// The image with channels in another order or number, by one to four letters of "rgba01": "bgr",
/// "rrr1", "a". Stored numbers are copied, whatever they mean; depth is kept. Gray is stored in
/// red.
/// Fails with `ErrorKind::usage` for other letters, and `unsupported` where no format holds them.
[[nodiscard]] YL_API Result<Image> reordered(ConstImageView image, std::string_view letters);

/// Turns one stored channel round: 1 - value, or the opposite of a signed one. For normals whose
/// green axis points the other way.
/// Fails with `ErrorKind::usage` when the format has no such channel.
[[nodiscard]] YL_API Status invert_channel(ImageView image, Channel channel);

/// In pixels, from the top left.
struct Box {
    std::uint32_t x = 0;
    std::uint32_t y = 0;
    std::uint32_t width = 0;
    std::uint32_t height = 0;
};

/// The part as a view: nothing is copied. Fails with `ErrorKind::usage` when the box is empty or
/// reaches beyond the image, and `unsupported` for block formats.
[[nodiscard]] YL_API Result<ConstImageView> cropped(ConstImageView image, const Box& box);

/// The eight ways to lay a rectangle on itself; the values are the orientation numbers of
/// EXIF 2.32, each naming what has to be done to see the picture upright.
enum class Orientation : std::uint8_t {
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
[[nodiscard]] YL_API std::string_view name(Orientation orientation);

/// What both do, one after the other; and what undoes one.
[[nodiscard]] YL_API Orientation combined(Orientation first, Orientation second);
[[nodiscard]] YL_API Orientation inverse(Orientation orientation);

/// Whether letters come out mirrored.
[[nodiscard]] constexpr bool mirrors(Orientation orientation) {
    return orientation == Orientation::mirror || orientation == Orientation::flip ||
           orientation == Orientation::transpose || orientation == Orientation::transverse;
}

/// All eight, those that do not mirror first.
inline constexpr std::array<Orientation, 8> all_orientations = {
    Orientation::none,         Orientation::quarter_right, Orientation::half,
    Orientation::quarter_left, Orientation::mirror,        Orientation::flip,
    Orientation::transpose,    Orientation::transverse};

/// Where the texel comes from that lies at (x, y) of the turned picture; width and height are those
/// of the picture before.
[[nodiscard]] YL_API std::array<std::uint32_t, 2> orientation_source(Orientation orientation,
                                                                     std::uint32_t x,
                                                                     std::uint32_t y,
                                                                     std::uint32_t width,
                                                                     std::uint32_t height);

/// The turned picture. Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] YL_API Result<Image> with_orientation(ConstImageView image, Orientation orientation);

}  // namespace yl
