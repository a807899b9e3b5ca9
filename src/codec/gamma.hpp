// Colours that were stored by a gamma of their own.
#pragma once

#include <yl/image.hpp>

namespace yl {

/// Turns colours stored as light^gamma into sRGB values, in place: red, green and blue, or the gray
/// of one and two channels; alpha stays. The image has plain channels of 8 or 16 bits.
void apply_gamma(ImageView image, double gamma);

}  // namespace yl
