// The grain of normals, which levels average away, and whether the roughness makes up for it.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include <yl/block.hpp>
#include <yl/mip.hpp>
#include <yl/status_macros.hpp>
#include "lint/subject.hpp"

namespace yl::lint_checks {
namespace {

/// The mean length of the means of so many normals across and down: 1 where they all agree.
double mean_length(const Plane& plane, std::uint32_t block) {
    double sum = 0;
    std::size_t blocks = 0;
    for (std::uint32_t y = 0; y + block <= plane.height; y += block) {
        if (!plane.has(y, y + block))
            continue;
        for (std::uint32_t x = 0; x + block <= plane.width; x += block, ++blocks) {
            std::array<double, 3> mean{};
            for (std::uint32_t v = 0; v < block; ++v)
                for (std::uint32_t u = 0; u < block; ++u)
                    for (std::size_t c = 0; c < 3; ++c)
                        mean[c] += 2 * static_cast<double>(plane.at(x + u, y + v)[c]) - 1;
            const double texels = double{1} * block * block;
            sum += std::sqrt(mean[0] * mean[0] + mean[1] * mean[1] + mean[2] * mean[2]) / texels;
        }
    }
    return blocks > 0 ? sum / static_cast<double>(blocks) : 1;
}

/// What a level of roughness adds to the fourth powers of the level that plain means make, and what the
/// variance of the normals asks for; means over its texels.
struct Widening {
    double added = 0, asked = 0;
};

constexpr std::size_t widened_level = 3;
constexpr std::uint32_t covered = 1U << widened_level;  ///< texels of level 0 along each axis

double mean_of_covered(const Plane& top, std::uint32_t x, std::uint32_t y, std::size_t channel) {
    double sum = 0;
    for (std::uint32_t v = 0; v < covered; ++v)
        for (std::uint32_t u = 0; u < covered; ++u)
            sum += static_cast<double>(top.at(x * covered + u, y * covered + v)[channel]);
    return sum / (covered * covered);
}

Widening widening_of(const Chain& chain, std::size_t channel, const std::vector<float>& variances) {
    const Plane& top = chain.levels[0];
    const Plane& level = chain.levels[widened_level];
    Widening sums;
    double texels = 0;
    for (const std::uint32_t y : level.rows) {
        if ((y + 1) * covered > top.height || !top.has(y * covered, (y + 1) * covered))
            continue;
        for (std::uint32_t x = 0; x < level.width && (x + 1) * covered <= top.width;
             ++x, ++texels) {
            const double plain = std::pow(mean_of_covered(top, x, y, channel), 4);
            const auto variance = static_cast<double>(variances[std::size_t{y} * level.width + x]);
            sums.asked += std::min(plain + 2 * variance, 1.0) - plain;
            sums.added += std::pow(static_cast<double>(level.at(x, y)[channel]), 4) - plain;
        }
    }
    return texels > 0 ? Widening{sums.added / texels, sums.asked / texels} : Widening{};
}

}  // namespace

void check_grain(const Subject& subject, Found& found) {
    if (subject.role != Role::normal || subject.is_float() ||
        info(subject.shape.format).kind == NumericKind::snorm || !stores_z(subject.top()))
        return;
    // Over 8 x 8 texels, as the third level has them. A mirror's highlight widens to that of the
    // roughness 0.3 at a length of 0.96 (Toksvig, "Mipmapping Normal Maps", 2005).
    constexpr std::uint32_t block = 8;
    constexpr double least = 0.96;
    const double length = mean_length(subject.top(), block);
    if (length < least)
        found.push_back(
            {{"normals-grainy",
              fmt::format("means of 8 x 8 normals are {:.3f} long: their grain is gone "
                          "from the third level on, and with it what it does to "
                          "highlights",
                          length),
              "bake the roughness with these normals, which widens it as much", FindingLevel::hint},
             "",
             length,
             least});
}

Status check_widening(const Subject& subject, const Texture& normals, Found& found) {
    const TextureShape& shape = subject.shape;
    const bool fits = normals.shape().width == shape.width &&
                      normals.shape().height == shape.height && normals.shape().depth == 1;
    if (!fits || shape.levels <= widened_level || shape.is_3d || subject.is_float())
        return {};
    Texture decoded;
    const bool is_block = info(normals.shape().format).is_block();
    if (is_block) {
        YL_TRY(decoded, decode_texture(normals));
    }
    YL_TRY(const auto variances, hidden_variance((is_block ? decoded : normals).image(0)));
    const auto channel = static_cast<std::size_t>(subject.packed.roughness.value_or(Channel::red));
    const Widening widening = widening_of(subject.chains[0], channel, variances[widened_level - 1]);
    // What widens a mirror's highlight to that of the roughness 0.3.
    constexpr double seen = 0.008;
    // Levels that `bake` widened add 0.9 to 1.1 of what is asked, plain means 0.
    constexpr double limit = 0.4;
    if (widening.asked < seen || widening.added >= limit * widening.asked)
        return {};
    const double share = std::max(widening.added, 0.0) / widening.asked;
    found.push_back(
        {{"roughness-not-widened",
          fmt::format("level {} makes up for {:.0f} % of the grain that its normals lose there",
                      widened_level, 100 * share),
          "bake the roughness with these normals"},
         fmt::format("level {}", widened_level),
         share,
         limit});
    return {};
}

}  // namespace yl::lint_checks
