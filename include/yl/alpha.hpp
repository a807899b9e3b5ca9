// What lies under and behind transparent pixels.
#pragma once

#include <yl/convert.hpp>
#include <yl/image.hpp>
#include <yl/texture.hpp>

namespace yl {

/// Colour times alpha, in linear light; `transfer` is that of colours whose format does not say it.
/// All of these fail with `ErrorKind::usage` when the format has no alpha channel.
[[nodiscard]] Status premultiply(ImageView image, Transfer transfer);

/// The way back; where alpha is 0, colour is lost and stays black.
[[nodiscard]] Status unpremultiply(ImageView image, Transfer transfer);

/// Lays straight colours over one colour, in linear light; alpha becomes 1.
[[nodiscard]] Status lay_over(ImageView image, const std::array<float, 3>& linear_color,
                              Transfer transfer);

/// Gives every wholly transparent pixel the colour of the nearest pixel that is not, so that
/// filters bring in no dark fringe; alpha stays as it is. Distances are Euclidean (Danielsson,
/// "Euclidean Distance Mapping", 1980, with both directions of each row).
[[nodiscard]] Status bleed_colors(ImageView image);

/// Multiplies alpha by the first channel of `mask`, as stored; straight colours stay as they are.
/// Fails with `ErrorKind::usage` when the sizes differ.
[[nodiscard]] Status mask_by(ImageView image, ConstImageView mask);

}  // namespace yl
