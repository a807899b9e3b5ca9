#include "codec/jpeg/color.hpp"

#include <algorithm>

namespace yl::jpeg {
namespace {

/// Doubles a row: between two samples lie two pixels, each a quarter of the way from its own.
/// `scale` is what the values have been multiplied by already; the result is divided by four times
/// that, rounding a half up at every other pixel and down at the others, so that no error adds up.
void double_row(const int* samples, std::uint32_t count, int scale, std::uint32_t width, int* row) {
    const int half = 2 * scale;
    const int even_rounding = scale == 1 ? half - 1 : half;
    const int odd_rounding = scale == 1 ? half : half - 1;
    for (std::uint32_t x = 0; x < width; ++x) {
        const std::uint32_t own = x / 2;
        const bool even = x % 2 == 0;
        const std::uint32_t other = even ? (own > 0 ? own - 1 : 0) : std::min(own + 1, count - 1);
        row[x] = (3 * samples[own] + samples[other] + (even ? even_rounding : odd_rounding)) /
                 (4 * scale);
    }
}

}  // namespace

template <class Sample>
void upsample_row(const Frame& frame, const Component& component, const Sample* plane,
                  std::uint32_t y, int* row) {
    const bool same_width = component.h == frame.max_h;
    const bool same_height = component.v == frame.max_v;
    // Other ratios, and planes too narrow to have neighbours on both sides, repeat samples.
    const bool wide_enough = component.width > 2;
    const bool half_width = wide_enough && component.h * 2 == frame.max_h &&
                            (same_height || component.v * 2 == frame.max_v);
    const bool half_height = component.v * 2 == frame.max_v && (same_width || half_width);
    const std::uint32_t own = std::min(y * component.v / frame.max_v, component.height - 1);
    const Sample* near = plane + own * component.stride();
    std::vector<int> samples(component.width);
    int scale = 1;
    if (half_height) {
        const std::uint32_t other =
            y % 2 == 0 ? (own > 0 ? own - 1 : 0) : std::min(own + 1, component.height - 1);
        const Sample* far = plane + other * component.stride();
        for (std::uint32_t x = 0; x < component.width; ++x)
            samples[x] = 3 * near[x] + far[x];
        scale = 4;
    } else {
        std::copy_n(near, component.width, samples.begin());
    }
    if (half_width)
        return double_row(samples.data(), component.width, scale, frame.width, row);
    for (std::uint32_t x = 0; x < frame.width; ++x) {
        const std::uint32_t from =
            component.h == frame.max_h
                ? x
                : std::min(x * component.h / frame.max_h, component.width - 1);
        row[x] = (samples[from] + scale / 2) / scale;
    }
}

template <class Sample>
void convert_row(ColorModel model, bool inverted, int bits, const int* const* rows,
                 std::uint32_t width, Sample* pixels) {
    const int greatest = (1 << bits) - 1;
    const int middle = 1 << (bits - 1);
    // 16-bit pixels hold 12-bit samples over their whole range.
    const auto put = [&](int value) {
        const int clamped = std::clamp(value, 0, greatest);
        *pixels++ =
            static_cast<Sample>(bits == 8 ? clamped : (clamped * 65535 + greatest / 2) / greatest);
    };
    if (model == ColorModel::gray) {
        for (std::uint32_t x = 0; x < width; ++x)
            put(rows[0][x]);
        return;
    }
    for (std::uint32_t x = 0; x < width; ++x) {
        int rgb[3] = {rows[0][x], rows[1][x], rows[2][x]};
        if (model == ColorModel::ycc || model == ColorModel::ycck) {
            // JFIF 1.02, the constants of ITU-R BT.601 times 2^16.
            const int blue = rgb[1] - middle;
            const int red = rgb[2] - middle;
            const int light = rgb[0];
            rgb[0] = light + ((91881 * red + 32768) >> 16);
            rgb[1] = light + ((-22554 * blue - 46802 * red + 32768) >> 16);
            rgb[2] = light + ((116130 * blue + 32768) >> 16);
        }
        if (model == ColorModel::ycck)  // what the conversion gave are complements of inks
            for (int& value : rgb)
                value = greatest - std::clamp(value, 0, greatest);
        if (model == ColorModel::cmyk || model == ColorModel::ycck) {
            const int black = inverted ? rows[3][x] : greatest - rows[3][x];
            for (int& value : rgb) {
                const int ink_free = std::clamp(inverted ? value : greatest - value, 0, greatest);
                value = (ink_free * black + greatest / 2) / greatest;
            }
        }
        for (const int value : rgb)
            put(value);
    }
}

template void upsample_row(const Frame&, const Component&, const std::uint8_t*, std::uint32_t,
                           int*);
template void upsample_row(const Frame&, const Component&, const std::uint16_t*, std::uint32_t,
                           int*);
template void convert_row(ColorModel, bool, int, const int* const*, std::uint32_t, std::uint8_t*);
template void convert_row(ColorModel, bool, int, const int* const*, std::uint32_t, std::uint16_t*);

}  // namespace yl::jpeg
