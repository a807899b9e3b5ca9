#include "measure/difference.hpp"

#include <fmt/format.h>
#include <bit>

#include <algorithm>
#include <limits>
#include <numbers>
#include <vector>

#include <yl/block.hpp>
#include <yl/convert.hpp>
#include <yl/format.hpp>
#include <yl/normals.hpp>
#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

/// Stored numbers without any curve, so that codes stay codes.
Result<Image> as_numbers(ConstImageView view) {
    if (info(view.format).is_block()) {
        YL_TRY(const Image texels, decode_blocks(view));
        return as_numbers(texels.view());
    }
    view.format = with_transfer(view.format, Transfer::linear).value_or(view.format);
    YL_TRY(Image floats,
           convert(view, Format::rgba32_float, {.source_transfer = Transfer::linear}));
    for (std::uint32_t y = 0; y < floats.height(); ++y)
        swap_unless_little<std::uint32_t>(floats.view().row(y));
    return floats;
}

bool is_opaque(ConstImageView floats) {
    for (std::uint32_t y = 0; y < floats.height; ++y) {
        const auto* row = reinterpret_cast<const float*>(floats.row(y).data());
        for (std::size_t x = 0; x < floats.width; ++x)
            if (row[4 * x + 3] != 1)
                return false;
    }
    return true;
}

double decibels(double mean_square) {
    return mean_square > 0 ? -10 * std::log10(mean_square)
                           : std::numeric_limits<double>::infinity();
}

double linear_of(const ComparedImages& images, float code) {
    return images.transfer == Transfer::srgb ? srgb_decode(static_cast<double>(code))
                                             : static_cast<double>(code);
}

/// As it is seen over black, where colour counts by alpha.
double luminance(const ComparedImages& images, const float* pixel) {
    const double seen = images.color_weight(pixel, pixel);
    if (images.channels < 3)
        return seen * static_cast<double>(pixel[0]);
    return seen * (0.2126 * static_cast<double>(pixel[0]) + 0.7152 * static_cast<double>(pixel[1]) +
                   0.0722 * static_cast<double>(pixel[2]));
}

using Vector = std::array<double, 3>;

/// The unit vector of a normal map's texel; of two channels, the third follows.
Vector normal_of(const float* pixel, std::uint32_t channels, bool is_signed) {
    Vector v{};
    for (std::size_t i = 0; i < std::min(channels, 3U); ++i)
        v[i] = is_signed ? static_cast<double>(pixel[i]) : 2 * static_cast<double>(pixel[i]) - 1;
    if (channels < 3)
        v[2] = std::sqrt(std::max(1 - v[0] * v[0] - v[1] * v[1], 0.0));
    const double length = std::sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2]);
    if (length == 0)
        return {0, 0, 1};
    for (double& part : v)
        part /= length;
    return v;
}

double angle_between(const Vector& a, const Vector& b) {
    const Vector cross = {a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2],
                          a[0] * b[1] - a[1] * b[0]};
    const double sine = std::sqrt(cross[0] * cross[0] + cross[1] * cross[1] + cross[2] * cross[2]);
    const double cosine = a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
    return std::atan2(sine, cosine) * 180 / std::numbers::pi;
}

/// Where windows begin along an axis; the last one ends with it.
std::vector<std::uint32_t> window_places(std::uint32_t side, std::uint32_t window,
                                         std::uint32_t step) {
    std::vector<std::uint32_t> places;
    for (std::uint32_t at = 0; at + window < side; at += step)
        places.push_back(at);
    places.push_back(side - window);
    return places;
}

/// Structural similarity of luminance over windows of 8 x 8 that overlap by half or more (Z. Wang,
/// A. C. Bovik, H. R. Sheikh, E. P. Simoncelli, "Image quality assessment", 2004).
double structural_similarity(const ComparedImages& images) {
    constexpr double c1 = 0.01 * 0.01, c2 = 0.03 * 0.03;
    constexpr std::uint32_t window = 8, step = 4;
    const std::uint32_t wide = std::min(window, images.width);
    const std::uint32_t high = std::min(window, images.height);
    double sum = 0, count = 0;
    for (const std::uint32_t top : window_places(images.height, high, step))
        for (const std::uint32_t left : window_places(images.width, wide, step)) {
            double a = 0, b = 0, aa = 0, bb = 0, ab = 0;
            for (std::uint32_t y = top; y < top + high; ++y)
                for (std::uint32_t x = left; x < left + wide; ++x) {
                    const double p = luminance(images, images.row_a(y) + 4 * x);
                    const double q = luminance(images, images.row_b(y) + 4 * x);
                    a += p;
                    b += q;
                    aa += p * p;
                    bb += q * q;
                    ab += p * q;
                }
            const double n = wide * high;
            const double mean_a = a / n, mean_b = b / n;
            const double var_a = aa / n - mean_a * mean_a, var_b = bb / n - mean_b * mean_b;
            const double both = ab / n - mean_a * mean_b;
            sum += (2 * mean_a * mean_b + c1) * (2 * both + c2) /
                   ((mean_a * mean_a + mean_b * mean_b + c1) * (var_a + var_b + c2));
            ++count;
        }
    return sum / count;
}

void measure_angles(const ComparedImages& images, ConstImageView a, ConstImageView b,
                    ImageDifference& result) {
    const bool signed_a = measured_normal_encoding(a) == NormalEncoding::as_is;
    const bool signed_b = measured_normal_encoding(b) == NormalEncoding::as_is;
    double sum = 0, max = 0;
    for (std::uint32_t y = 0; y < images.height; ++y)
        for (std::size_t x = 0; x < images.width; ++x) {
            const double angle = angle_between(
                normal_of(images.row_a(y) + 4 * x, info(a.format).channel_count, signed_a),
                normal_of(images.row_b(y) + 4 * x, info(b.format).channel_count, signed_b));
            sum += angle;
            max = std::max(max, angle);
        }
    result.mean_angle = sum / (static_cast<double>(images.width) * images.height);
    result.max_angle = max;
}

}  // namespace

const float* ComparedImages::row_a(std::uint32_t y) const {
    return reinterpret_cast<const float*>(a.view().row(y).data());
}

const float* ComparedImages::row_b(std::uint32_t y) const {
    return reinterpret_cast<const float*>(b.view().row(y).data());
}

bool counts_in_stops(ConstImageView a, ConstImageView b) {
    return info(a.format).is_float() && info(b.format).is_float();
}

Result<ComparedImages> compared(ConstImageView a, ConstImageView b,
                                const DifferenceOptions& options) {
    if (a.width != b.width || a.height != b.height)
        return fail(ErrorKind::usage, fmt::format("{} x {} pixels cannot be compared with {} x {}",
                                                  a.width, a.height, b.width, b.height));
    ComparedImages images;
    images.width = a.width;
    images.height = a.height;
    const FormatInfo& fa = info(a.format);
    const FormatInfo& fb = info(b.format);
    images.channels = std::max(fa.channel_count, fb.channel_count);
    if (options.role == Role::normal)
        images.channels = std::min(fa.channel_count, fb.channel_count);
    images.is_light = counts_in_stops(a, b);
    images.weighs_by_alpha =
        alpha_mode(options.role, options.alpha) == AlphaMode::straight && images.channels == 4;
    const bool says_srgb = fa.transfer == Transfer::srgb || fb.transfer == Transfer::srgb;
    images.transfer = says_srgb || (options.transfer == Transfer::srgb && !images.is_light &&
                                    info(options.role).transfer == Transfer::srgb)
                          ? Transfer::srgb
                          : Transfer::linear;
    YL_TRY(images.a, as_numbers(a));
    YL_TRY(images.b, as_numbers(b));
    if (images.channels == 4 && is_opaque(images.a.view()) && is_opaque(images.b.view()))
        images.channels = 3;
    images.weighs_by_alpha = images.weighs_by_alpha && images.channels == 4;
    return images;
}

double pixel_difference(const ComparedImages& images, const float* a, const float* b) {
    const double weight = images.color_weight(a, b);
    double max = 0;
    for (std::uint32_t c = 0; c < images.channels; ++c) {
        const bool is_alpha = c == 3;
        const double off =
            images.is_light && !is_alpha
                ? stops_between(a[c], b[c])
                : 255 * std::abs(static_cast<double>(a[c]) - static_cast<double>(b[c]));
        max = std::max(max, is_alpha ? off : off * weight);
    }
    return max;
}

namespace {

/// Squared errors, colour weighed, of all pixels.
struct Squares {
    std::array<double, 4> codes{};
    double linear_color = 0;
    double stops = 0;
    double light_off = 0, light = 0;
    double color_weights = 0;
    std::uint64_t hidden = 0;

    void add(const ComparedImages& images, const float* p, const float* q) {
        const double weight = images.color_weight(p, q);
        color_weights += weight;
        hidden += weight == 0 && !std::equal(p, p + 3, q) ? 1 : 0;
        for (std::uint32_t c = 0; c < images.channels; ++c) {
            const double off = static_cast<double>(p[c]) - static_cast<double>(q[c]);
            codes[c] += (c == 3 ? 1 : weight) * off * off;
            if (c == 3)
                continue;
            const double linear = linear_of(images, p[c]) - linear_of(images, q[c]);
            linear_color += weight * linear * linear;
            if (!images.is_light)
                continue;
            stops += weight * stops_between(p[c], q[c]) * stops_between(p[c], q[c]);
            light_off += weight * std::abs(off);
            light += weight * std::abs(static_cast<double>(p[c]));
        }
    }
};

}  // namespace

Result<ImageDifference> measure_difference(ConstImageView a, ConstImageView b,
                                           const DifferenceOptions& options) try {
    YL_CHECK(check_view(a, "a"));
    YL_CHECK(check_view(b, "b"));
    YL_TRY(const ComparedImages images, compared(a, b, options));
    ImageDifference result;
    result.channels = images.channels;
    Squares squares;
    for (std::uint32_t y = 0; y < images.height; ++y)
        for (std::uint32_t x = 0; x < images.width; ++x) {
            const float* p = images.row_a(y) + std::size_t{4} * x;
            const float* q = images.row_b(y) + std::size_t{4} * x;
            squares.add(images, p, q);
            const double off = pixel_difference(images, p, q);
            if (off > result.max) {
                result.max = off;
                result.worst_x = x;
                result.worst_y = y;
            }
        }
    const double pixels = static_cast<double>(images.width) * images.height;
    const double seen = squares.color_weights > 0 ? squares.color_weights : 1;
    const double alpha_mean = images.channels == 4 ? squares.codes[3] / pixels : 0;
    double mean = 0;
    for (std::uint32_t c = 0; c < images.channels; ++c) {
        const double channel = c == 3 ? alpha_mean : squares.codes[c] / seen;
        result.channel_psnr[c] = decibels(channel);
        mean += channel;
    }
    result.psnr = decibels(mean / images.channels);
    result.linear_psnr = decibels((squares.linear_color / seen + alpha_mean) / images.channels);
    result.ssim = structural_similarity(images);
    result.hidden_texels = squares.hidden;
    if (images.is_light) {
        result.log_error = std::sqrt(squares.stops / seen / std::min(images.channels, 3U));
        result.relative_error = squares.light > 0       ? squares.light_off / squares.light
                                : squares.light_off > 0 ? std::numeric_limits<double>::infinity()
                                                        : 0.0;
        result.psnr = result.linear_psnr = ImageDifference::no_psnr;
        result.channel_psnr.fill(ImageDifference::no_psnr);
    }
    if (options.role == Role::normal)
        measure_angles(images, a, b, result);
    return result;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
