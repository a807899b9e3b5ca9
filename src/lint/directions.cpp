// Normal maps: whether they hold directions, in which encoding, and which way green points.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <optional>

#include "lint/subject.hpp"

namespace yl::lint_checks {
namespace {

struct Slope {
    double across = 0, down = 0;  ///< of the height, if green points up
};

/// A texel's direction. What two channels store has its z rebuilt.
std::array<double, 3> direction_at(const float* rgba, bool has_z) {
    const auto part = [&](std::size_t c) { return 2 * static_cast<double>(rgba[c]) - 1; };
    const double x = part(0), y = part(1);
    return {x, y, has_z ? part(2) : std::sqrt(std::max(0.0, 1 - x * x - y * y))};
}

Slope slope_at(const Plane& plane, std::uint32_t x, std::uint32_t y, bool has_z) {
    const auto n = direction_at(plane.at(x, y), has_z);
    constexpr double least_z = 0.1;  // slopes of 84 degrees and more would outweigh all others
    const double z = std::max(n[2], least_z);
    return {-n[0] / z, n[1] / z};
}

/// Normals of a surface are the slopes of a height, so that the slope across changes downwards as
/// the slope down changes across. What is left of that, squared, for green up and down, and what the
/// changes are by themselves; means of the texels. Nothing of what is too small or flat.
struct Curl {
    double up = 0, down = 0, steepness = 0;
};

std::optional<Curl> curl_of(const Plane& top, bool has_z) {
    constexpr std::uint32_t least_side = 16;
    if (std::min(top.width, top.height) < least_side)
        return {};
    Curl curl;
    const std::vector<std::uint32_t> rows = top.rows_with(1, 1, 192);
    for (const std::uint32_t y : rows)
        for (std::uint32_t x = 1; x + 1 < top.width; ++x) {
            const double twist =
                slope_at(top, x, y + 1, has_z).across - slope_at(top, x, y - 1, has_z).across;
            const double turn =
                slope_at(top, x + 1, y, has_z).down - slope_at(top, x - 1, y, has_z).down;
            curl.up += (twist - turn) * (twist - turn);
            curl.down += (twist + turn) * (twist + turn);
            curl.steepness += twist * twist + turn * turn;
        }
    const double texels = static_cast<double>(rows.size()) * top.width;
    constexpr double least_steepness = 1e-4;  // rounding to 8 bits alone gives 4e-5
    if (curl.steepness / texels < least_steepness)
        return {};
    return Curl{curl.up / texels, curl.down / texels, curl.steepness / texels};
}

void check_green(const Subject& subject, bool has_z, Found& found) {
    const auto curl = curl_of(subject.top(), has_z);
    if (!curl || curl->down == 0)
        return;
    const double ratio = curl->up / curl->down;
    constexpr double limit = 1.6;
    if (ratio > limit)
        found.push_back(
            {{"green-inverted",
              fmt::format("the slopes fit a surface {:.1f} times better if green points "
                          "down, or red to the left",
                          ratio),
              "turn green over, or say that it points down where it is baked"},
             "",
             ratio,
             limit});
}

void check_lengths(const Subject& subject, Found& found) {
    const Plane& top = subject.top();
    std::size_t off = 0;
    for (std::size_t i = 0; i < top.rgba.size(); i += 4) {
        const auto n = direction_at(&top.rgba[i], true);
        const double length = std::sqrt(n[0] * n[0] + n[1] * n[1] + n[2] * n[2]);
        constexpr double slack = 0.06;  // rounding to 8 bits gives 0.014, BC1's blocks up to 0.05
        off += std::abs(length - 1) > slack ? 1 : 0;
    }
    const double share = static_cast<double>(off) / static_cast<double>(top.texels_there());
    constexpr double limit = 0.03;
    if (share > limit)
        found.push_back({{"normals-not-unit",
                          fmt::format("{:.0f} % of the directions are off unit length by more than "
                                      "6 %",
                                      100 * share),
                          "bake it in the role normal, which makes them unit vectors again"},
                         "",
                         share,
                         limit});
}

}  // namespace

bool stores_z(const Plane& plane) {
    for (std::size_t i = 0; i < plane.rgba.size(); i += 4)
        if (plane.rgba[i + 2] != plane.rgba[2])
            return true;
    return false;
}

bool looks_like_slopes(const Plane& plane) {
    std::array<double, 2> sum{};
    std::size_t beyond = 0;
    for (std::size_t i = 0; i < plane.rgba.size(); i += 4) {
        const auto n = direction_at(&plane.rgba[i], false);
        beyond += n[0] * n[0] + n[1] * n[1] > 1.05 ? 1 : 0;
        sum[0] += n[0];
        sum[1] += n[1];
    }
    const auto texels = static_cast<double>(plane.texels_there());
    constexpr double leaning = 0.1;  // the slate's mean is off by 0.003
    if (static_cast<double>(beyond) > 0.001 * texels || std::abs(sum[0]) > leaning * texels ||
        std::abs(sum[1]) > leaning * texels)
        return false;
    const auto curl = curl_of(plane, false);
    constexpr double like_a_surface = 0.6;  // numbers that know nothing of each other leave 1
    return curl && std::min(curl->up, curl->down) < like_a_surface * curl->steepness;
}

void check_directions(const Subject& subject, Found& found) {
    if (subject.role != Role::normal || info(subject.shape.format).kind == NumericKind::snorm ||
        subject.is_float())
        return;
    const bool has_z = stores_z(subject.top());
    const float fewest = 0.5F;
    if (subject.role_is_given && has_z && !subject.content.is_uniform &&
        subject.content.directions < fewest) {
        found.push_back(
            {{subject.channels.is_gray ? FindingCode("height-as-normal")
                                       : FindingCode("no-normals"),
              fmt::format("{:.0f} % of the texels can be directions",
                          100 * static_cast<double>(subject.content.directions)),
              subject.channels.is_gray ? "make normals of the heights" : "use a normal map"},
             "",
             static_cast<double>(subject.content.directions),
             static_cast<double>(fewest)});
        return;
    }
    if (!subject.is_picture && subject.transfer == Transfer::srgb &&
        subject.content.looks_like_normals())
        found.push_back({{"normal-as-srgb",
                          fmt::format("{:.0f} % of the texels are directions, and the format makes "
                                      "the GPU decode them as colours",
                                      100 * static_cast<double>(subject.content.directions)),
                          "store it in a linear format, in the role normal"},
                         "",
                         static_cast<double>(subject.content.directions),
                         0.5});
    if (has_z)
        check_lengths(subject, found);
    check_green(subject, has_z, found);
}

}  // namespace yl::lint_checks
