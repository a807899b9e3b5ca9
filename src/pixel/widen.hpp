// Pixels of one to three channels made four, in their own memory.
#pragma once

#include <yl/image.hpp>
#include <yl/swizzle.hpp>

namespace yl {

/// The format with red, green, blue and alpha whose channels are like those of `format`: 8, 16 or
/// 32 bits, integers or floating point. Colour encoded as `transfer` keeps that where there is such
/// a format.
[[nodiscard]] Format rgba_format(Format format, Transfer transfer);

/// Makes every pixel four channels wide: one and two are gray, which is spread, and alpha; an alpha
/// that is not there is 1. Happens in place when the image's memory is large enough already.
[[nodiscard]] Status widen_to_rgba(Image& image, Transfer transfer);

}  // namespace yl
