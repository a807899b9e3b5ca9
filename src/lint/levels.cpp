// Whether each level is a filtered version of the one above.
#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>

#include <yl/format.hpp>
#include "lint/subject.hpp"

namespace yl::lint_checks {
namespace {

constexpr float code = 1.0F / 255;
/// Smaller levels are a handful of texels, which prove nothing.
constexpr std::size_t fewest_texels = 16;

/// The means of the level above in three ways, and how the level differs from them.
struct LevelSums {
    double texels = 0;        ///< channels of texels that were compared
    double from_linear = 0;   ///< squares of the difference from the mean of linear light
    double shift = 0;         ///< squares of the difference between the means of light and codes
    double along_shift = 0;   ///< of the level's difference from the mean of codes, along that
    double lost = 0;          ///< root of the mean square of the detail that it loses
    double own_spread = 0;    ///< of the level's own texels from theirs
    double above_spread = 0;  ///< of the means from theirs

    [[nodiscard]] double rms() const { return texels > 0 ? std::sqrt(from_linear / texels) : 0; }

    LevelSums& operator+=(const LevelSums& other) {
        texels += other.texels;
        from_linear += other.from_linear;
        shift += other.shift;
        along_shift += other.along_shift;
        return *this;
    }
};

/// The sRGB curve by tables: to a hundredth of a code, which is enough to measure by.
class Curve {
 public:
    Curve() {
        for (std::size_t i = 0; i < encoded_.size(); ++i) {
            const double root = static_cast<double>(i) / steps;
            encoded_[i] = static_cast<float>(srgb_encode(root * root));
            decoded_[i] = static_cast<float>(srgb_decode(root));
        }
    }
    [[nodiscard]] float decode(float encoded) const { return read(decoded_, encoded); }
    [[nodiscard]] float encode(float light) const {
        return read(encoded_, std::sqrt(std::max(light, 0.0F)));
    }

 private:
    static constexpr std::size_t steps = 4080;  // 16 for each code
    using Table = std::array<float, steps + 2>;

    static float read(const Table& table, float at) {
        const float place = std::clamp(at, 0.0F, 1.0F) * steps;
        const auto below = static_cast<std::size_t>(place);
        return table[below] +
               (table[below + 1] - table[below]) * (place - static_cast<float>(below));
    }

    Table encoded_ = {}, decoded_ = {};
};

const Curve& srgb_curve() {
    static const Curve made;
    return made;
}

double variance(double sum, double squares, double count) {
    return count > 0 ? std::max(0.0, squares / count - (sum / count) * (sum / count)) : 0;
}

/// The means of the texels that a texel covers, of their stored numbers and of their light.
struct Means {
    std::array<float, 4> codes = {}, light = {};
};

/// The texels of the level above that one texel covers: 2 x 2, or 3 along odd sides.
struct Covered {
    std::uint32_t begin, end;

    Covered(std::uint32_t i, std::uint32_t from, std::uint32_t to)
        : begin(static_cast<std::uint32_t>(std::uint64_t{i} * from / to)),
          end(static_cast<std::uint32_t>((std::uint64_t{i + 1} * from + to - 1) / to)) {}
};

Means means_of(const Plane& above, Covered across, Covered down, const Curve* decoder) {
    Means means;
    for (std::uint32_t v = down.begin; v < down.end; ++v)
        for (std::uint32_t u = across.begin; u < across.end; ++u)
            for (std::size_t c = 0; c < 4; ++c) {
                const float stored = above.at(u, v)[c];
                means.codes[c] += stored;
                means.light[c] += decoder != nullptr && c < 3 ? decoder->decode(stored) : stored;
            }
    const float share =
        1.0F / static_cast<float>((across.end - across.begin) * (down.end - down.begin));
    for (std::size_t c = 0; c < 4; ++c) {
        means.codes[c] *= share;
        means.light[c] *= share;
    }
    return means;
}

/// How a chain is compared.
struct Comparison {
    bool is_srgb = false;
    bool alpha_weighs = false;
    std::uint32_t margin = 0;  ///< texels at each edge that are left out
};

/// Compares rows of a level with what the level above makes them.
LevelSums compare(const Plane& level, const Plane& above, const Comparison& how) {
    LevelSums sums;
    const auto& [is_srgb, alpha_weighs, margin] = how;
    const Curve* curve = is_srgb ? &srgb_curve() : nullptr;
    double own = 0, own_squares = 0, mean = 0, mean_squares = 0, covered = 0;
    constexpr float opaque = 0.999F;  // others are weighed by alpha, which the mean here is not
    // So many texels tell the ways apart that a level can be made.
    constexpr std::size_t enough_texels = 10'000, fewest_rows = 8;
    const std::size_t most = std::max(fewest_rows, enough_texels / level.width);
    for (const std::uint32_t y : level.rows_with(0, 0, most)) {
        const Covered down(y, above.height, level.height);
        if (!above.has(down.begin, down.end) || y < margin || y + margin >= level.height)
            continue;
        for (std::uint32_t x = margin; x + margin < level.width; ++x) {
            const Covered across(x, above.width, level.width);
            const Means means = means_of(above, across, down, curve);
            if (alpha_weighs && means.codes[3] < opaque)
                continue;
            for (std::size_t c = 0; c < 3; ++c) {
                const float stored = level.at(x, y)[c];
                const float by_codes = means.codes[c];
                const float by_light = curve != nullptr ? curve->encode(means.light[c]) : by_codes;
                const auto shift = static_cast<double>(by_light - by_codes);
                const auto off = static_cast<double>(stored - by_light);
                sums.texels += 1;
                sums.from_linear += off * off;
                sums.shift += shift * shift;
                sums.along_shift += static_cast<double>(stored - by_codes) * shift;
                own += static_cast<double>(stored);
                own_squares += static_cast<double>(stored * stored);
                mean += static_cast<double>(by_light);
                mean_squares += static_cast<double>(by_light * by_light);
                const auto lost =
                    static_cast<double>(above.at(across.begin, down.begin)[c] - by_codes);
                covered += lost * lost;
            }
        }
    }
    sums.own_spread = variance(own, own_squares, sums.texels);
    sums.above_spread = variance(mean, mean_squares, sums.texels);
    sums.lost = sums.texels > 0 ? std::sqrt(covered / sums.texels) : 0;
    return sums;
}

std::string place_of(const Chain& chain, std::size_t level) {
    return fmt::format("{}{}level {}", chain.place, chain.place.empty() ? "" : ", ", level);
}

/// Filters other than the mean differ from it by less than the detail that it loses: Lanczos and
/// Kaiser by up to 0.4 of it over the demo's pictures. Other pictures differ by more.
bool is_unrelated(const LevelSums& sums, const Subject& subject) {
    constexpr double times_the_detail = 1.5;
    // Roughness that its normals have widened differs on purpose.
    const double at_least = subject.role == Role::data ? 0.12 : 0.04;
    return sums.rms() > std::max(at_least, times_the_detail * sums.lost);
}

void check_chain(const Subject& subject, const Chain& chain, LevelSums& all, Found& found) {
    // Texels along the edges of a cube's faces are means with those of the next face.
    const Comparison how = {
        .is_srgb = subject.transfer == Transfer::srgb && !subject.is_float(),
        .alpha_weighs = subject.alpha == AlphaMode::straight && !subject.channels.is_opaque,
        .margin = subject.shape.faces == 6 ? 1U : 0U};
    for (std::size_t i = 1; i < chain.levels.size(); ++i) {
        const Plane& above = chain.levels[i - 1];
        const Plane& level = chain.levels[i];
        if (level.texels() < fewest_texels)
            break;
        const LevelSums sums = compare(level, above, how);
        if (sums.texels < fewest_texels)
            continue;
        constexpr double flat = 0.25 * code * code, lively = 25 * code * code;
        if (sums.own_spread < flat && sums.above_spread > lively) {
            found.push_back({{"level-uniform",
                              fmt::format("level {} is of one colour, and the one above is not: it "
                                          "varies by {:.3f}",
                                          i, std::sqrt(sums.above_spread)),
                              "make the levels again"},
                             place_of(chain, i),
                             std::sqrt(sums.own_spread),
                             std::sqrt(flat)});
            continue;
        }
        if (is_unrelated(sums, subject)) {
            found.push_back({{"level-unrelated",
                              fmt::format("level {} is no filtered version of level {}: it is off "
                                          "by {:.3f} on average",
                                          i, i - 1, sums.rms()),
                              "make the levels again"},
                             place_of(chain, i),
                             sums.rms(),
                             0.04});
            continue;
        }
        all += sums;
    }
}

/// How far the levels went from the mean of codes (0) to that of light (1), and how sure that is.
void check_space(const LevelSums& all, Found& found) {
    constexpr double smallest_shift = 0.7 * code;  // of the mean over all texels, to be seen at all
    if (all.texels == 0 || std::sqrt(all.shift / all.texels) < smallest_shift)
        return;
    const double way = all.along_shift / all.shift;
    const double unsure = std::sqrt(all.from_linear / all.texels / all.shift);
    constexpr double limit = 0.3, times = 4;
    if (way + times * unsure >= limit)
        return;
    found.push_back({{"mips-in-gamma-space",
                      fmt::format("the levels are means of sRGB codes, not of light ({:.2f} on the "
                                  "way from codes to light): fine detail grows darker from afar",
                                  way),
                      "make the levels again, in linear light"},
                     "",
                     way,
                     limit});
}

}  // namespace

void check_levels(const Subject& subject, Found& found) {
    // Levels of normals have other lengths, and those of prefiltered cubes are blurred on purpose.
    if (subject.shape.levels < 2 || subject.shape.is_3d || subject.is_float())
        return;
    LevelSums all;
    for (const Chain& chain : subject.chains)
        check_chain(subject, chain, all, found);
    if (subject.transfer == Transfer::srgb && subject.role != Role::normal)
        check_space(all, found);
}

void check_coverage(const Subject& subject, Found& found) {
    if (subject.alpha != AlphaMode::straight || subject.channels.is_opaque ||
        subject.shape.levels < 2)
        return;
    constexpr float threshold = 0.5F;
    constexpr std::size_t fewest = 256;
    for (const Chain& chain : subject.chains) {
        const auto share = [&](const Plane& plane, bool binary) {
            std::size_t count = 0;
            for (std::size_t i = 3; i < plane.rgba.size(); i += 4)
                count += binary ? (plane.rgba[i] < 0.02F || plane.rgba[i] > 0.98F)
                                : plane.rgba[i] >= threshold;
            return static_cast<double>(count) / static_cast<double>(plane.texels_there());
        };
        const double whole = share(chain.levels[0], false);
        // Only cut-outs are tested against a threshold.
        if (whole == 0 || whole == 1 || share(chain.levels[0], true) < 0.95)
            continue;
        for (std::size_t i = 1; i < chain.levels.size() && chain.levels[i].texels() >= fewest;
             ++i) {
            const double kept = share(chain.levels[i], false) / whole;
            constexpr double least = 0.75;
            if (kept >= least)
                continue;
            found.push_back({{"coverage-lost",
                              fmt::format("level {} keeps {:.0f} % of the coverage of level 0: "
                                          "leaves and fences thin out from afar",
                                          i, 100 * kept),
                              "bake it with its coverage preserved"},
                             place_of(chain, i),
                             kept,
                             least});
            break;
        }
    }
}

}  // namespace yl::lint_checks
