// From rows of the components to rows of pixels: upsampling and colour conversion.
#pragma once

#include "codec/jpeg/frame.hpp"

namespace yl::jpeg {

/// What the components stand for.
enum class ColorModel { gray, rgb, ycc, cmyk, ycck };

/// What rows of samples become.
struct ColorPlan {
    ColorModel model = ColorModel::gray;
    bool inverted = false;       ///< CMYK values are stored as 255 less ink, as Adobe's programs do
    int bits = 8;                ///< of a sample
    std::uint32_t channels = 1;  ///< of a pixel: 1 for gray, 3, or 4 with an alpha of 1
    bool keeps_inks = false;     ///< pixels are the four inks, the more the darker
};

/// Rows of the components to pixels, interleaved. 12-bit samples fill the range of 16 bits.
template <class Sample>
void convert_row(const ColorPlan& plan, const Sample* const* rows, std::uint32_t width,
                 Sample* pixels);

/// Makes rows as wide as the picture of a component's rows. Where a side has half the samples, they
/// are blended 3 to 1 with their neighbours, which puts them where they were taken (JFIF 1.02,
/// centred); other ratios repeat samples.
template <class Sample>
class Upsampler {
 public:
    Upsampler(const Frame& frame, const Component& component);

    /// The rows that row `y` of the picture is made of; the same row twice where one suffices.
    struct Rows {
        std::uint32_t near = 0, far = 0;
    };
    [[nodiscard]] Rows rows_for(std::uint32_t y) const;

    /// Row `y` of pixels, made of those two. It is valid until the next call, or as long as `near`.
    [[nodiscard]] const Sample* row(const Sample* near, const Sample* far, std::uint32_t y);

 private:
    [[nodiscard]] const Sample* repeat_samples(const std::uint16_t* samples, int scale,
                                               int rounding);

    const Frame& frame_;
    const Component& component_;
    bool half_width_ = false;
    bool half_height_ = false;
    std::vector<std::uint16_t> blended_;  ///< with one more at both ends, for the blend across
    std::vector<Sample> row_;
};

/// Doubles a row: between two samples lie two pixels, each a quarter of the way from its own.
/// `samples` has a valid neighbour before and after its `count`, and carries `scale`, 1 or 4, as a
/// factor; the result is without it, with a half rounded up at every other pixel and down at the
/// others, so that no error adds up.
template <class Sample>
void double_row(const std::uint16_t* samples, std::uint32_t count, int scale, Sample* row);

}  // namespace yl::jpeg
