// From the planes of the components to rows of pixels: upsampling and colour conversion.
#pragma once

#include "codec/jpeg/frame.hpp"

namespace yl::jpeg {

/// What the components stand for.
enum class ColorModel { gray, rgb, ycc, cmyk, ycck };

/// Row `y` of the picture of one component, as wide as the picture. Where a side has half the
/// samples, they are blended 3 to 1 with their neighbours, which puts them where they were taken
/// (JFIF 1.02, centred); other ratios repeat samples.
template <class Sample>
void upsample_row(const Frame& frame, const Component& component, const Sample* plane,
                  std::uint32_t y, int* row);

/// Rows of the components to RGB or gray samples of `bits`, interleaved. `inverted` tells that CMYK
/// values are stored as 255 less ink, as Adobe's programs do.
template <class Sample>
void convert_row(ColorModel model, bool inverted, int bits, const int* const* rows,
                 std::uint32_t width, Sample* pixels);

}  // namespace yl::jpeg
