// Editing images: alpha, channels, crops, rotation and mirroring.
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

/// Multiplies colour by alpha in linear light; `transfer` counts if the format does not say it.
/// These functions fail with `ErrorKind::usage` if the format has no alpha channel.
[[nodiscard]] YL_API Status premultiply(ImageView image, Transfer transfer);

/// Divides colour by alpha; where alpha is 0 the colour is lost and stays black.
/// Fails as `premultiply` does.
[[nodiscard]] YL_API Status unpremultiply(ImageView image, Transfer transfer);

/// Composites straight colours over one colour in linear light; alpha becomes 1.
/// Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] YL_API Status composite_over(ImageView image,
                                           const std::array<float, 3>& linear_color,
                                           Transfer transfer);

/// Gives every fully transparent pixel the colour of the nearest one that is not, so that filters
/// draw no dark fringes; alpha stays unchanged. Distances are Euclidean (Danielsson,
/// "Euclidean Distance Mapping", 1980, with both directions of each row).
/// Fails with `ErrorKind::unsupported` for block formats, and for formats without alpha.
[[nodiscard]] YL_API Status bleed_colors(ImageView image);

/// Multiplies alpha by the first channel of `mask`, as stored; straight colours stay unchanged.
/// Fails with `ErrorKind::usage` when the sizes differ.
[[nodiscard]] YL_API Status mask_by(ImageView image, ConstImageView mask);

/// What fills one channel of a packed image: a channel of an image, as stored, or a constant.
struct ChannelSource {
    ConstImageView image = {};  ///< empty: use `value`
    Channel channel = Channel::red;
    bool inverted = false;  ///< 1 - value
    float value = 0;        ///< 0 .. 1
};

/// Packs one to four sources of the same size into the channels of one image, for example
/// occlusion, roughness and metalness. Numbers are copied as stored, without a transfer function;
/// the depth is 16 bits if any source has more than 8, else 8. Fails with `ErrorKind::usage` if
/// there are no images or their sizes differ.
[[nodiscard]] YL_API Result<Image> pack_channels(std::span<const ChannelSource> sources);

/// The image with channels in another order or number, by one to four letters of "rgba01": "bgr",
/// "rrr1", "a". Stored numbers are copied, whatever they mean; depth is kept. Gray is stored in
/// red.
/// Fails with `ErrorKind::usage` for other letters, and `unsupported` where no format holds them.
[[nodiscard]] YL_API Result<Image> reordered(ConstImageView image, std::string_view letters);

/// Inverts one stored channel: 1 - value, or the negative of a signed one. For normal maps whose
/// green axis points the other way.
/// Fails with `ErrorKind::usage` if the format has no such channel.
[[nodiscard]] YL_API Status invert_channel(ImageView image, Channel channel);

/// In pixels, from the top left.
struct Box {
    std::uint32_t x = 0;
    std::uint32_t y = 0;
    std::uint32_t width = 0;
    std::uint32_t height = 0;

    friend bool operator==(const Box&, const Box&) = default;
};

/// A view of the part; nothing is copied. Fails with `ErrorKind::usage` if the box is empty or
/// reaches beyond the image, and with `unsupported` for block formats.
[[nodiscard]] YL_API Result<ConstImageView> cropped(ConstImageView image, const Box& box);

/// The eight rotations and mirrorings of a rectangle. The values are the orientation numbers of
/// EXIF 2.32; each names what has to be done to see the picture upright.
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

/// The first followed by the second; and the orientation that undoes one.
[[nodiscard]] YL_API Orientation combined(Orientation first, Orientation second);
[[nodiscard]] YL_API Orientation inverse(Orientation orientation);

/// Whether width and height change places.
[[nodiscard]] YL_API bool exchanges_sides(Orientation orientation);

/// Whether it includes a reflection.
[[nodiscard]] constexpr bool mirrors(Orientation orientation) {
    return orientation == Orientation::mirror || orientation == Orientation::flip ||
           orientation == Orientation::transpose || orientation == Orientation::transverse;
}

/// All eight, those that do not mirror first.
inline constexpr std::array<Orientation, 8> all_orientations = {
    Orientation::none,         Orientation::quarter_right, Orientation::half,
    Orientation::quarter_left, Orientation::mirror,        Orientation::flip,
    Orientation::transpose,    Orientation::transverse};

/// The source texel of (x, y) in the turned picture; width and height are those of the source.
[[nodiscard]] YL_API std::array<std::uint32_t, 2> orientation_source(Orientation orientation,
                                                                     std::uint32_t x,
                                                                     std::uint32_t y,
                                                                     std::uint32_t width,
                                                                     std::uint32_t height);

/// The turned picture. Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] YL_API Result<Image> with_orientation(ConstImageView image, Orientation orientation);

}  // namespace yl
