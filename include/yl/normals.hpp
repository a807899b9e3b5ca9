// Normal maps.
//
//     yl::Picture heights = yl::or_exit(yl::read_picture("bricks_height.png"));
//     yl::Image normals =
//         yl::or_exit(yl::normals_from_height(heights.image.view(), {.height = 12}));
#pragma once

#include <optional>
#include <yl/api.hpp>
#include <yl/convert.hpp>
#include <yl/image.hpp>

namespace yl {

/// How steep the surface is, and which way green points. All members are optional.
struct NormalOptions {
    /// How many texels white is above black; sets the steepness of slopes.
    float height = 8;
    Edges edges = {Edge::repeat, Edge::repeat};
    /// Whether green points towards the top of the picture, as in OpenGL and glTF.
    bool green_up = true;
};

/// Normals of a height map in the first channel, as stored; slopes by the 3 x 3 operator of Scharr
/// ("Optimal Operators in Digital Image Processing", 2000). rgba8-unorm, or rgba16-unorm
/// when the heights have more than 8 bits. Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] YL_API Result<Image> normals_from_height(ConstImageView height,
                                                       const NormalOptions& options = {});

/// How a component of a direction is stored.
enum class NormalEncoding : std::uint8_t {
    biased,  ///< 0.5 + 0.5 n
    as_is,   ///< n
};

/// The encoding usual for a format: unsigned normalised numbers are biased, others are stored as
/// is.
[[nodiscard]] YL_API NormalEncoding normal_encoding(Format format);

/// What an image in floating point holds: the one by which more of its texels are
/// of unit length.
[[nodiscard]] YL_API NormalEncoding measured_normal_encoding(ConstImageView image);

/// How the source stores its directions. All members are optional.
struct NormalConversion {
    /// By default that of the format; measured for floating point.
    std::optional<NormalEncoding> source_encoding = {};
    Swizzle swizzle = identity_swizzle;  ///< of the source
    bool dither = false;
    std::uint32_t first_row = 0;  ///< of the views within their picture, as in `ConvertOptions`
};

/// What was measured.
struct NormalMeasure {
    double mean_length = 1;  ///< before they were normalised
    double inward = 0;       ///< share of texels whose third component is below 0
};

/// Converts directions from one format to another and normalises them: a third component that the
/// source lacks is rebuilt, and one that the target lacks is dropped only afterwards. Texels of
/// three components that are of unit length already, but for their own rounding, keep their values;
/// the fourth channel is copied. Fails with `ErrorKind::usage` when the views differ in size or
/// either has fewer than two channels, and with `unsupported` for block formats.
[[nodiscard]] YL_API Result<NormalMeasure> convert_normals(ConstImageView source, ImageView target,
                                                           const NormalConversion& conversion = {});

}  // namespace yl
