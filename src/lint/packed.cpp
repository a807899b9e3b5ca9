// Packed channels and normals: whether they hold what they are said to, and what their levels lose.
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

}  // namespace

void check_packed(const Subject& subject, Found& found) {
    if (subject.packed.metalness && !subject.is_float() && !subject.content.is_uniform)
        check_metalness(subject, *subject.packed.metalness, found);
}

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

}  // namespace yl::lint_checks
