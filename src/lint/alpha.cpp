// What alpha means, and whether the colours agree.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include "lint/subject.hpp"

namespace yl::lint_checks {
namespace {

constexpr float code = 1.0F / 255;

constexpr std::size_t alpha_steps = 16;

struct AlphaSums {
    double seen = 0;          ///< texels
    std::size_t partial = 0;  ///< texels that are neither clear nor opaque
    std::size_t beyond = 0;   ///< with a colour above their alpha, as premultiplied ones never are
    std::array<double, alpha_steps> brightness = {}, texels = {};  ///< by alpha
    std::size_t edges = 0;  ///< clear texels beside visible ones
    double bleeding = 0;    ///< the sum of their differences in colour
};

float most(const float* rgba) {
    return std::max({rgba[0], rgba[1], rgba[2]});
}

void add_pair(const float* a, const float* b, AlphaSums& sums) {
    constexpr float clear = 0.02F, visible = 0.5F;
    if (!((a[3] < clear && b[3] > visible) || (b[3] < clear && a[3] > visible)))
        return;
    ++sums.edges;
    for (std::size_t c = 0; c < 3; ++c)
        sums.bleeding += std::abs(static_cast<double>(a[c] - b[c])) / 3;
}

AlphaSums sums_of(const Plane& plane) {
    AlphaSums sums;
    sums.seen = static_cast<double>(plane.texels_there());
    for (const std::uint32_t y : plane.rows)
        for (std::uint32_t x = 0; x < plane.width; ++x) {
            const float* texel = plane.at(x, y);
            constexpr float slack = 1.5F * code;
            if (texel[3] > slack && texel[3] < 1 - slack) {
                const auto step = static_cast<std::size_t>(texel[3] * alpha_steps);
                ++sums.partial;
                sums.texels[step] += 1;
                sums.brightness[step] += static_cast<double>(most(texel));
            }
            sums.beyond += most(texel) > texel[3] + slack ? 1 : 0;
            if (x + 1 < plane.width)
                add_pair(texel, plane.at(x + 1, y), sums);
            if (y + 1 < plane.height && plane.has(y + 1))
                add_pair(texel, plane.at(x, y + 1), sums);
        }
    return sums;
}

/// How much better brightness is explained as in proportion to alpha than as independent of it: the
/// sum of the squares that the former leaves over that of the latter.
double left_by_proportion(const AlphaSums& sums) {
    double count = 0, sum = 0, along = 0, alphas = 0;
    const auto alpha_of = [](std::size_t step) {
        return (static_cast<double>(step) + 0.5) / alpha_steps;
    };
    for (std::size_t i = 0; i < alpha_steps; ++i) {
        count += sums.texels[i];
        sum += sums.brightness[i];
        along += sums.brightness[i] * alpha_of(i);
        alphas += sums.texels[i] * alpha_of(i) * alpha_of(i);
    }
    const double mean = sum / std::max(count, 1.0), slope = along / std::max(alphas, 1e-9);
    double by_proportion = 0, by_mean = 0;
    for (std::size_t i = 0; i < alpha_steps; ++i) {
        if (sums.texels[i] == 0)
            continue;
        const double own = sums.brightness[i] / sums.texels[i];
        by_proportion += sums.texels[i] * std::pow(own - slope * alpha_of(i), 2);
        by_mean += sums.texels[i] * std::pow(own - mean, 2);
    }
    return by_mean > 0 ? by_proportion / by_mean : 1;
}

void check_meaning(const Subject& subject, const AlphaSums& sums, Found& found) {
    const double beyond = static_cast<double>(sums.beyond) / sums.seen;
    constexpr double few = 0.001, enough = 0.01;
    if (subject.alpha == AlphaMode::premultiplied && beyond > few) {
        found.push_back({{"not-premultiplied",
                          fmt::format("{:.1f} % of the texels are brighter than their alpha, which "
                                      "no premultiplied colour is",
                                      100 * beyond),
                          "mark alpha as straight, or multiply the colours by it"},
                         "",
                         beyond,
                         few});
        return;
    }
    constexpr std::size_t fewest = 200;  // of a small picture's edges anything can be said
    const double partial =
        sums.partial < fewest ? 0 : static_cast<double>(sums.partial) / sums.seen;
    constexpr double clearly = 0.35;
    const double left = left_by_proportion(sums);
    if (subject.alpha == AlphaMode::straight && beyond <= few && partial > enough && left < clearly)
        found.push_back(
            {{"looks-premultiplied",
              fmt::format("no texel is brighter than its alpha, and brightness rises with alpha: "
                          "in proportion to it, {:.0f} % of what it varies by is explained",
                          100 * (1 - left)),
              "mark alpha as premultiplied, or divide the colours by it"},
             "",
             left,
             clearly});
}

void check_bleeding(const Subject& subject, const AlphaSums& sums, Found& found) {
    constexpr double fewest_edges = 0.001, limit = 0.2;
    const double edges = static_cast<double>(sums.edges);
    if (subject.alpha != AlphaMode::straight || edges < fewest_edges * sums.seen)
        return;
    const double off = sums.bleeding / edges;
    if (off > limit)
        found.push_back({{"hidden-colors-bleed",
                          fmt::format("clear texels differ from the visible ones beside them by "
                                      "{:.2f} on average: linear filters mix them in as a fringe",
                                      off),
                          "let the visible colours grow into the clear ones", FindingLevel::hint},
                         "",
                         off,
                         limit});
}

}  // namespace

void check_alpha(const Subject& subject, Found& found) {
    const FormatInfo& f = info(subject.shape.format);
    const bool is_coverage = subject.role == Role::color || subject.role == Role::hdr;
    if (!is_coverage || subject.is_float() || subject.content.is_uniform)
        return;
    if (subject.channels.is_opaque) {
        if (f.channel_count == 4 && !f.is_block() && f.block_bytes == 4)
            found.push_back(
                {{"alpha-opaque", "alpha is 1 everywhere",
                  "leave it out where the format costs more with it", FindingLevel::hint},
                 "",
                 1,
                 1});
        return;
    }
    const AlphaSums sums = sums_of(subject.top());
    check_meaning(subject, sums, found);
    check_bleeding(subject, sums, found);
}

}  // namespace yl::lint_checks
