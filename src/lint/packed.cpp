// Packed channels: whether they hold what they are said to.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "lint/subject.hpp"

namespace yl::lint_checks {
namespace {

/// Share of texels that are neither near 0 nor near 1: of a metal or of no metal.
double share_between(const Plane& plane, Channel channel) {
    constexpr float near = 0.1F;
    std::size_t between = 0;
    for (std::size_t i = static_cast<std::size_t>(channel); i < plane.rgba.size(); i += 4)
        between += plane.rgba[i] > near && plane.rgba[i] < 1 - near ? 1 : 0;
    return static_cast<double>(between) / static_cast<double>(plane.texels_there());
}

std::string_view channel_name(Channel channel) {
    constexpr std::array<std::string_view, 4> names = {"red", "green", "blue", "alpha"};
    return names[static_cast<std::size_t>(channel)];
}

/// Metalness is 0 or 1 but at the edges of rust and paint; occlusion and roughness are rarely.
void check_metalness(const Subject& subject, Channel metalness, Found& found) {
    constexpr double limit = 0.3;  // a tenth and less where it was painted or scanned with care
    const double between = share_between(subject.top(), metalness);
    if (between <= limit)
        return;
    for (const auto& [other, name] : {std::pair{subject.packed.occlusion, "occlusion"},
                                      std::pair{subject.packed.roughness, "roughness"}}) {
        constexpr double like_metalness = 0.02;
        if (!other || share_between(subject.top(), *other) > like_metalness)
            continue;
        found.push_back({{"channels-swapped",
                          fmt::format("{} holds 0 and 1 alone as metalness does, and {}, which is "
                                      "said to be metalness, is between them in {:.0f} % of the "
                                      "texels",
                                      channel_name(*other), channel_name(metalness), 100 * between),
                          fmt::format("look whether {} and metalness have changed places", name)},
                         "",
                         between,
                         limit});
        return;
    }
    found.push_back({{"metalness-between",
                      fmt::format("{:.0f} % of the texels are neither metal nor not: {} is between "
                                  "0.1 and 0.9 there",
                                  100 * between, channel_name(metalness)),
                      "use 0 or 1 but where one thing covers the other"},
                     "",
                     between,
                     limit});
}

}  // namespace

void check_packed(const Subject& subject, Found& found) {
    if (subject.packed.metalness && !subject.is_float() && !subject.content.is_uniform)
        check_metalness(subject, *subject.packed.metalness, found);
}

}  // namespace yl::lint_checks
