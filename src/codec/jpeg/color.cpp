#include "codec/jpeg/color.hpp"

#include <algorithm>

#include "codec/jpeg/jpeg_simd.hpp"

namespace yl::jpeg {
namespace {

/// JFIF 1.02, the constants of ITU-R BT.601 times 2^16.
void ycc_to_rgb(int* samples, int middle) {
    const int light = samples[0];
    const int blue = samples[1] - middle;
    const int red = samples[2] - middle;
    samples[0] = light + ((91881 * red + 32768) >> 16);
    samples[1] = light + ((-22554 * blue - 46802 * red + 32768) >> 16);
    samples[2] = light + ((116130 * blue + 32768) >> 16);
}

/// What is left of the light by four inks: without a profile, the product of what each leaves.
void cmyk_to_rgb(int* samples, bool inverted, int max) {
    const int black = inverted ? samples[3] : max - samples[3];
    for (int c = 0; c < 3; ++c) {
        const int ink_free = inverted ? samples[c] : max - samples[c];
        samples[c] = (ink_free * black + max / 2) / max;
    }
}

}  // namespace

template <class Sample>
void convert_row(const ColorPlan& plan, const Sample* const* rows, std::uint32_t width,
                 Sample* pixels) {
    const int max = (1 << plan.bits) - 1;
    const int middle = 1 << (plan.bits - 1);
    const bool has_inks = plan.model == ColorModel::cmyk || plan.model == ColorModel::ycck;
    const auto put = [&](int value) {
        const int clamped = std::clamp(value, 0, max);
        *pixels++ =
            static_cast<Sample>(plan.bits == 8 ? clamped : (clamped * 65535 + max / 2) / max);
    };
    for (std::uint32_t x = 0; x < width; ++x) {
        int samples[4] = {rows[0][x], 0, 0, 0};
        if (plan.model == ColorModel::gray) {
            samples[1] = samples[2] = samples[0];
        } else {
            samples[1] = rows[1][x];
            samples[2] = rows[2][x];
        }
        if (plan.model == ColorModel::ycc || plan.model == ColorModel::ycck)
            ycc_to_rgb(samples, middle);
        if (plan.model == ColorModel::ycck)  // what the conversion gave are complements of inks
            for (int c = 0; c < 3; ++c)
                samples[c] = max - std::clamp(samples[c], 0, max);
        if (has_inks)
            samples[3] = rows[3][x];
        if (plan.keeps_inks) {
            for (const int sample : samples)
                put(plan.inverted ? max - sample : sample);
            continue;
        }
        if (has_inks)
            cmyk_to_rgb(samples, plan.inverted, max);
        for (std::uint32_t c = 0; c < std::min(plan.channels, 3U); ++c)
            put(samples[c]);
        if (plan.channels == 4)
            put(max);
    }
}

template <class Sample>
void double_row(const std::uint16_t* samples, std::uint32_t count, int scale, Sample* row) {
    const int half = 2 * scale;
    const int left_rounding = scale == 1 ? half - 1 : half;
    const int right_rounding = scale == 1 ? half : half - 1;
    for (std::uint32_t x = 0; x < count; ++x) {
        const int own = 3 * samples[x];
        row[2 * x] = static_cast<Sample>((own + *(samples + x - 1) + left_rounding) / (4 * scale));
        row[2 * x + 1] = static_cast<Sample>((own + samples[x + 1] + right_rounding) / (4 * scale));
    }
}

template <class Sample>
Upsampler<Sample>::Upsampler(const Frame& frame, const Component& component)
    : frame_(frame), component_(component) {
    const bool same_width = component.h == frame.max_h;
    const bool same_height = component.v == frame.max_v;
    // Other ratios, and planes too narrow to have neighbours on both sides, repeat samples.
    half_width_ = component.width > 2 && component.h * 2 == frame.max_h &&
                  (same_height || component.v * 2 == frame.max_v);
    half_height_ = component.v * 2 == frame.max_v && (same_width || half_width_);
    if (same_width && !half_height_)
        return;
    blended_.resize(component.width + std::size_t{2});
    row_.resize(std::max<std::size_t>(frame.width, std::size_t{2} * component.width));
}

template <class Sample>
typename Upsampler<Sample>::Rows Upsampler<Sample>::rows_for(std::uint32_t y) const {
    const std::uint32_t last = component_.height - 1;
    const std::uint32_t near = std::min(y * component_.v / frame_.max_v, last);
    if (!half_height_)
        return {near, near};
    return {near, y % 2 == 0 ? (near > 0 ? near - 1 : 0) : std::min(near + 1, last)};
}

template <class Sample>
const Sample* Upsampler<Sample>::row(const Sample* near, const Sample* far, std::uint32_t y) {
    if (row_.empty())
        return near;
    const std::size_t count = component_.width;
    std::uint16_t* samples = blended_.data() + 1;
    const int scale = half_height_ ? 4 : 1;
    if (half_height_)
        for (std::size_t x = 0; x < count; ++x)
            samples[x] = static_cast<std::uint16_t>(3 * near[x] + far[x]);
    else
        std::copy_n(near, count, samples);
    if (!half_width_)  // halves go down in even rows and up in odd ones, so that none prevails
        return repeat_samples(samples, scale, scale == 1 ? 0 : 1 + static_cast<int>(y % 2));
    blended_.front() = samples[0];
    blended_.back() = samples[count - 1];
    if constexpr (sizeof(Sample) == 1)
        double_row_simd(samples, component_.width, scale, row_.data());
    else
        double_row(samples, component_.width, scale, row_.data());
    return row_.data();
}

template <class Sample>
const Sample* Upsampler<Sample>::repeat_samples(const std::uint16_t* samples, int scale,
                                                int rounding) {
    for (std::uint32_t x = 0; x < frame_.width; ++x) {
        const std::uint32_t from = std::min(x * component_.h / frame_.max_h, component_.width - 1);
        row_[x] = static_cast<Sample>((samples[from] + rounding) / scale);
    }
    return row_.data();
}

template void convert_row(const ColorPlan&, const std::uint8_t* const*, std::uint32_t,
                          std::uint8_t*);
template void convert_row(const ColorPlan&, const std::uint16_t* const*, std::uint32_t,
                          std::uint16_t*);
template void double_row(const std::uint16_t*, std::uint32_t, int, std::uint8_t*);
template void double_row(const std::uint16_t*, std::uint32_t, int, std::uint16_t*);
template class Upsampler<std::uint8_t>;
template class Upsampler<std::uint16_t>;

}  // namespace yl::jpeg
