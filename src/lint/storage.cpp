// Whether the format and the size are worth what they cost, and whether the edges meet.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <unordered_set>

#include <yl/sampler_rules.hpp>
#include "lint/subject.hpp"

namespace yl::lint_checks {
namespace {

constexpr float code = 1.0F / 255;

/// What half the size could not hold: the root of the mean square of the upper half of the
/// frequencies, across and down, and of all that varies. By a half-band filter of seven taps.
struct Detail {
    double fine = 0, all = 0;
};

/// How far a texel is from what the texels beside it let expect.
float beyond_half(const float* texel, std::ptrdiff_t step) {
    return 0.5F * texel[0] - 0.28125F * (texel[step] + texel[-step]) +
           0.03125F * (texel[3 * step] + texel[-3 * step]);
}

/// The colours as far as alpha lets them be seen.
Plane visible(Plane plane) {
    for (std::size_t i = 0; i < plane.rgba.size(); i += 4)
        for (std::size_t c = 0; c < 3; ++c)
            plane.rgba[i + c] *= plane.rgba[i + 3];
    return plane;
}

Detail detail_of(const Plane& plane) {
    const std::ptrdiff_t across = 4, down = std::ptrdiff_t{4} * plane.width;
    double fine = 0, sum = 0, squares = 0, count = 0;
    for (const std::uint32_t y : plane.rows_with(3, 3, 96))
        for (std::uint32_t x = 3; x + 3 < plane.width; ++x)
            for (std::size_t c = 0; c < 3; ++c) {
                const float* texel = plane.at(x, y) + c;
                const auto u = static_cast<double>(beyond_half(texel, across));
                const auto v = static_cast<double>(beyond_half(texel, down));
                const auto value = static_cast<double>(*texel);
                fine += u * u + v * v;
                sum += value;
                squares += value * value;
                ++count;
            }
    const double mean = sum / count;
    return {std::sqrt(fine / count), std::sqrt(std::max(0.0, squares / count - mean * mean))};
}

bool is_even(const Plane& plane) {
    return plane.width % 2 == 0 && plane.height % 2 == 0;
}

void check_seam(float seam, Wrap wrap, std::string_view axis, std::string_view edges,
                Found& found) {
    if (wrap != Wrap::repeat || seam <= SeamMeasure::visible)
        return;
    found.push_back({{"seam-where-it-repeats",
                      fmt::format("the step from the {} is {:.1f} times that between other texels",
                                  edges, static_cast<double>(seam)),
                      "clamp or mirror it along that axis, or blend its edges"},
                     std::string(axis),
                     static_cast<double>(seam),
                     static_cast<double>(SeamMeasure::visible)});
}

/// Share of texels that differ from the one to the right, and by a few codes alone: a third and more of
/// photographs and paintings; the texels of drawn ones are equal or differ clearly.
double gentle_share(const Plane& plane) {
    constexpr float least = 0.5F * code, most = 12.5F * code;
    double gentle = 0, pairs = 0;
    for (const std::uint32_t y : plane.rows)
        for (std::uint32_t x = 0; x + 1 < plane.width; ++x, ++pairs) {
            const float* texel = plane.at(x, y);
            float step = 0;
            for (std::size_t c = 0; c < 3; ++c)
                step = std::max(step, std::abs(texel[c] - texel[4 + c]));
            gentle += step > least && step < most ? 1 : 0;
        }
    return pairs > 0 ? gentle / pairs : 0;
}

/// Colours of 5 bits, of which drawn pixels have few and photographs thousands.
std::size_t count_colors(const Plane& plane) {
    std::unordered_set<std::uint32_t> colors;
    for (std::size_t i = 0; i < plane.rgba.size(); i += 4) {
        std::uint32_t color = 0;
        for (std::size_t c = 0; c < 3; ++c)
            color = color * 32 +
                    static_cast<std::uint32_t>(std::clamp(plane.rgba[i + c], 0.0F, 1.0F) * 31);
        colors.insert(color);
    }
    return colors.size();
}

/// How much the brightness varies over eighths of the sides, and in all; as shares of white.
struct Patches {
    double large = 0, all = 0;
};

Patches patches_of(const Plane& plane) {
    constexpr std::uint32_t parts = 8;
    std::array<double, parts * parts> sums{}, counts{};
    double sum = 0, squares = 0, count = 0;
    for (const std::uint32_t y : plane.rows)
        for (std::uint32_t x = 0; x < plane.width; ++x) {
            const float* texel = plane.at(x, y);
            const auto value =
                static_cast<double>(0.25F * texel[0] + 0.6F * texel[1] + 0.15F * texel[2]);
            const std::size_t part = std::size_t{y} * parts / plane.height * parts +
                                     std::size_t{x} * parts / plane.width;
            sums[part] += value;
            ++counts[part];
            sum += value;
            squares += value * value;
            ++count;
        }
    double part_squares = 0;
    const double mean = sum / count;
    for (std::size_t i = 0; i < sums.size(); ++i)
        part_squares += counts[i] > 0 ? std::pow(sums[i] / counts[i] - mean, 2) : 0;
    return {std::sqrt(part_squares / (parts * parts)),
            std::sqrt(std::max(0.0, squares / count - mean * mean))};
}

void check_repeat(const Subject& subject, Found& found) {
    const Sampler& sampler = *subject.sampler;
    constexpr std::uint32_t least_side = 64;
    const Plane& top = subject.top();
    if (sampler.wrap[0] != Wrap::repeat || sampler.wrap[1] != Wrap::repeat ||
        subject.role != Role::color || std::min(top.width, top.height) < least_side)
        return;
    const Patches patches = patches_of(top);
    constexpr double limit = 0.06, share = 0.5;
    if (patches.large < limit || patches.large < share * patches.all)
        return;
    found.push_back({{"repeat-shows",
                      fmt::format("large patches differ by {:.0f} % of white: repeated, they are "
                                  "seen as a pattern",
                                  100 * patches.large),
                      "even out its large patches, or do not repeat it", FindingLevel::hint},
                     "",
                     patches.large,
                     limit});
}

}  // namespace

void check_storage(const Subject& subject, Found& found) {
    const FormatInfo& f = info(subject.shape.format);
    if (subject.is_float() || subject.content.is_uniform)
        return;
    if (subject.bits == 16 && subject.bits_in_use <= 8)
        found.push_back(
            {{"bits-unused",
              fmt::format("16 bits are stored, and {} hold every value", subject.bits_in_use),
              "store 8 bits", FindingLevel::hint},
             "",
             static_cast<double>(subject.bits_in_use),
             8});
    if (subject.channels.is_gray && f.channel_count >= 3 && !f.is_block() &&
        subject.role != Role::normal)
        found.push_back({{"channels-unused",
                          fmt::format("red, green and blue are equal everywhere: {} would do",
                                      counted(subject.channels.useful_channels(), "channel")),
                          "store one channel, seen as gray by a swizzle", FindingLevel::hint},
                         "",
                         static_cast<double>(subject.channels.useful_channels()),
                         3});
}

void check_detail(const Subject& subject, Found& found) {
    constexpr std::uint32_t least_side = 256;
    // Rounding to 8 bits alone gives 0.26 codes; of pictures that were enlarged four times the upper
    // half holds about 1 %, of 98 % of the others 1.8 % and more.
    constexpr double rounding = 0.35, share = 0.018;
    if (subject.is_float() || subject.content.is_uniform || subject.shape.is_3d)
        return;
    const bool is_weighed = subject.alpha == AlphaMode::straight && !subject.channels.is_opaque;
    // A smaller one once the first level has none.
    Plane reduced = is_weighed ? visible(subject.top()) : Plane{};
    std::size_t empty = 0;
    double least = 0;
    while (true) {
        const Plane& level = empty == 0 && !is_weighed ? subject.top() : reduced;
        if (std::min(level.width, level.height) < least_side || !is_even(level))
            break;
        const Detail detail = detail_of(level);
        if (detail.fine >= std::max(rounding * static_cast<double>(code), share * detail.all))
            break;
        least = detail.fine / std::max(detail.all, 1e-6);
        ++empty;
        if (empty == 1)
            reduced = is_weighed ? visible(subject.whole_top()) : subject.whole_top();
        reduced = halved(reduced, reduced.width / 2, reduced.height / 2);
    }
    if (empty == 0)
        return;
    const std::string levels =
        empty == 1 ? "the largest level holds" : fmt::format("the {} largest levels hold", empty);
    found.push_back(
        {{"no-detail",
          fmt::format("{} no detail: the upper half of its frequencies has {:.1f} % of what varies",
                      levels, 100 * least),
          fmt::format("leave out {}", counted(empty, "level")), FindingLevel::hint},
         "",
         least,
         share});
}

void check_sampling(const Subject& subject, Found& found) {
    if (!subject.sampler || subject.is_float())
        return;
    const Plane& top = subject.top();
    const Sampler& sampler = *subject.sampler;
    const bool is_small = std::max(top.width, top.height) <= 64;
    const std::size_t colors = count_colors(top);
    constexpr std::size_t drawn = 24;
    constexpr double photographed = 0.25;
    if (sampler.mag == Filter::nearest && !is_small && subject.role == Role::color)
        if (const double gentle = gentle_share(top); gentle > photographed)
            found.push_back({{"nearest-on-photograph",
                              fmt::format("nearest filters show the texels of a picture whose "
                                          "colours run gently: {:.0f} % of its texels differ from "
                                          "the next by a few codes",
                                          100 * gentle),
                              "set mag=linear min=linear", FindingLevel::hint},
                             "",
                             gentle,
                             photographed});
    if (sampler.mag == Filter::linear && colors <= drawn && colors > 1 && is_small &&
        subject.role == Role::color)
        found.push_back(
            {{"linear-on-drawn-pixels",
              fmt::format("linear filters blur a picture of {} tones and {} x {} texels", colors,
                          top.width, top.height),
              "set mag=nearest if its pixels are meant to be seen", FindingLevel::hint},
             "",
             static_cast<double>(colors),
             static_cast<double>(drawn)});
    check_repeat(subject, found);
    check_seam(subject.seams.across, sampler.wrap[0], "from left to right",
               "right edge to the left", found);
    check_seam(subject.seams.down, sampler.wrap[1], "from top to bottom", "bottom edge to the top",
               found);
}

}  // namespace yl::lint_checks
