// Changing values one by one: levels and tone curves; and making a picture tile.
//
//     yl::Tone tone = yl::or_exit(yl::levels(0.1F, 0.9F, 1.2F));
//     yl::or_exit(yl::apply_tone(image.view(), tone));
//     yl::Image tile = yl::or_exit(yl::with_blended_seams(image.view(), yl::Transfer::srgb));
#pragma once

#include <array>
#include <functional>
#include <span>
#include <yl/api.hpp>
#include <yl/image.hpp>

namespace yl {

/// Gives a value for a value: 0 is black and 1 white, as images store them.
using Tone = std::function<float(float)>;

/// Stretches values so that `black` becomes 0 and `white` 1, then raises them to 1 / gamma: above 1
/// middle values get lighter. `white` may be less than `black`, which inverts. Fails with
/// `ErrorKind::usage` if both are the same or a number is not finite, or gamma is not positive.
[[nodiscard]] YL_API Result<Tone> levels(float black, float white, float gamma = 1);

/// A smooth curve through points {value, new value} in the order of their values, which goes up and
/// down only where the points do (Fritsch and Carlson, "Monotone piecewise cubic interpolation",
/// 1980), and is level beyond them. Fails with `ErrorKind::usage` for fewer than two points, or
/// values that do not grow.
[[nodiscard]] YL_API Result<Tone> tone_curve(std::span<const std::array<float, 2>> points);

/// Changes all channels but alpha, as stored; integers are clamped to their range. Straight alpha
/// only: premultiplied colours would no longer fit their alpha. Fails with `ErrorKind::usage` for
/// block formats and those that pack several numbers into one.
[[nodiscard]] YL_API Status apply_tone(ImageView image, const Tone& tone);

struct SeamOptions {
    float share = 0.25F;  ///< of each side that is blended, above 0 and up to 0.5
    bool across = true;   ///< blend left and right
    bool along = true;    ///< blend top and bottom
};

/// A part of the picture that repeats without a seam, smaller by the share of each blended side: its
/// right end is laid over its left one and joined along the line where they differ least (Efros and
/// Freeman, "Image Quilting for Texture Synthesis and Transfer", 2001), likewise top and bottom, with
/// a short transition in linear light. Repeated patterns have to fit by themselves: choose a share
/// that leaves whole periods. Fails with `ErrorKind::usage` for a share out of range or a side of
/// less than 8 pixels, and for block formats.
[[nodiscard]] YL_API Result<Image> with_blended_seams(ConstImageView image, Transfer transfer,
                                                      const SeamOptions& options = {});

}  // namespace yl
