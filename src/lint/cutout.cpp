// Alpha that cuts out, and alpha that blends.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lint/subject.hpp"

namespace yl::lint_checks {
namespace {

constexpr float code = 1.0F / 255;

bool is_partial(float alpha) {
    constexpr float slack = 1.5F * code;
    return alpha > slack && alpha < 1 - slack;
}

struct CutoutSums {
    double seen = 0;     ///< texels that are not clear
    double texels = 0;   ///< all
    double partial = 0;  ///< neither clear nor opaque
    double nearly = 0;   ///< of these, within 16 codes of one
    double inside = 0;   ///< partial, as are all four texels beside them
};

CutoutSums sums_of(const Plane& plane) {
    constexpr float near = 16 * code;
    CutoutSums sums;
    sums.texels = static_cast<double>(plane.texels_there());
    for (const std::uint32_t y : plane.rows)
        for (std::uint32_t x = 0; x < plane.width; ++x) {
            const float alpha = plane.at(x, y)[3];
            sums.seen += alpha > 1.5F * code ? 1 : 0;
            if (!is_partial(alpha))
                continue;
            ++sums.partial;
            sums.nearly += alpha < near || alpha > 1 - near ? 1 : 0;
            const bool has_all = x > 0 && x + 1 < plane.width && y > 0 && y + 1 < plane.height &&
                                 plane.has(y - 1, y + 2);
            sums.inside +=
                has_all && is_partial(plane.at(x - 1, y)[3]) && is_partial(plane.at(x + 1, y)[3]) &&
                        is_partial(plane.at(x, y - 1)[3]) && is_partial(plane.at(x, y + 1)[3])
                    ? 1
                    : 0;
        }
    return sums;
}

void check_mask(const CutoutSums& sums, Found& found) {
    // Edges that are smoothed over one or two texels leave nothing inside of them.
    constexpr double limit = 0.1;
    const double share = sums.inside / std::max(sums.seen, 1.0);
    if (share > limit)
        found.push_back({{"cutout-soft",
                          fmt::format("the material cuts out by alpha, and {:.0f} % of what is "
                                      "visible lies within soft areas",
                                      100 * share),
                          "let the material blend, or make alpha steeper"},
                         "",
                         share,
                         limit});
}

void check_blend(const CutoutSums& sums, Found& found) {
    constexpr double limit = 0.005;
    const double share = sums.partial / sums.texels;
    if (share <= limit)
        found.push_back({{"cutout-blended",
                          fmt::format("the material blends, and {:.1f} % of the texels are neither "
                                      "clear nor opaque",
                                      100 * share),
                          "let the material be a mask, which needs no sorting", FindingLevel::hint},
                         "",
                         share,
                         limit});
}

/// Of what is nearly clear or opaque throughout; blocks round alpha themselves.
void check_cleanness(const CutoutSums& sums, Found& found) {
    constexpr double limit = 0.05, most_between = 0.02;
    const double share = sums.nearly / sums.texels;
    if (share > limit && sums.partial - sums.nearly < most_between * sums.texels)
        found.push_back(
            {{"cutout-not-clean",
              fmt::format("{:.0f} % of the texels are nearly clear or nearly opaque, "
                          "and only {:.1f} % lie between",
                          100 * share, 100 * (sums.partial - sums.nearly) / sums.texels),
              "make them clear and opaque", FindingLevel::hint},
             "",
             share,
             limit});
}

}  // namespace

void check_cutout(const Subject& subject, Found& found) {
    if (subject.role != Role::color || subject.is_float() || subject.channels.is_opaque ||
        subject.content.is_uniform || subject.alpha == AlphaMode::data ||
        subject.alpha == AlphaMode::opaque)
        return;
    const CutoutSums sums = sums_of(subject.top());
    if (subject.alpha_use == AlphaUse::mask)
        check_mask(sums, found);
    if (subject.alpha_use == AlphaUse::blend)
        check_blend(sums, found);
    if (!subject.decoded)
        check_cleanness(sums, found);
}

}  // namespace yl::lint_checks
