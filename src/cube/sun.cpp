#include "cube/sun.hpp"

#include <algorithm>
#include <cmath>
#include <map>
#include <numbers>

#include "resample/row_source.hpp"

namespace yl {
namespace {

constexpr float suns_above = 16;    ///< times the mean of the sky without them
constexpr std::size_t one_in = 64;  ///< texels of which, at most, one is a sun
constexpr int rounds_of_mean = 3;

template <class Visit>
void for_each_texel(const LightCube& sky, const Visit& visit) {
    for (std::size_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < sky.size(); ++y)
            for (std::uint32_t x = 0; x < sky.size(); ++x)
                visit(face, x, y);
}

/// The mean luminance of what is not far brighter than the mean itself.
float sky_mean(const LightCube& sky) {
    double mean = 1e30;
    for (int round = 0; round < rounds_of_mean; ++round) {
        double sum = 0;
        for_each_texel(sky, [&](std::size_t face, std::uint32_t x, std::uint32_t y) {
            sum += std::min(static_cast<double>(light_of(sky.texel(face, x, y))), 4 * mean) *
                   texel_solid_angle(x, y, sky.size());
        });
        mean = sum / (4 * std::numbers::pi);
    }
    return static_cast<float>(mean);
}

/// So high that few texels lie above it.
float sun_threshold(const LightCube& sky) {
    const float min = suns_above * sky_mean(sky);
    std::vector<float> above;
    for_each_texel(sky, [&](std::size_t face, std::uint32_t x, std::uint32_t y) {
        const float light = light_of(sky.texel(face, x, y));
        if (light > min)
            above.push_back(light);
    });
    const std::size_t most = std::size_t{6} * sky.size() * sky.size() / one_in;
    if (above.size() <= most)
        return min;
    std::nth_element(above.begin(), above.begin() + static_cast<std::ptrdiff_t>(most), above.end(),
                     std::greater<>());
    return above[most];
}

}  // namespace

SunLight SunLight::take_from(LightCube& sky) {
    SunLight sun;
    const float threshold = sun_threshold(sky);
    if (!(threshold > 0) || !std::isfinite(threshold))
        return sun;
    for_each_texel(sky, [&](std::size_t face, std::uint32_t x, std::uint32_t y) {
        float* texel = sky.texel(face, x, y);
        const float light = light_of(texel);
        if (!(light > threshold) || !std::isfinite(light))
            return;
        const Direction d = direction_at(middle_of(face, x, y, sky.size()));
        const double length = std::sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
        SunSpot spot{static_cast<float>(d[0] / length), static_cast<float>(d[1] / length),
                     static_cast<float>(d[2] / length)};
        const float kept = threshold / light;
        const auto angle = static_cast<float>(texel_solid_angle(x, y, sky.size()));
        for (std::size_t c = 0; c < 3; ++c) {
            spot.light[c] = texel[c] * (1 - kept) * angle;
            texel[c] *= kept;
        }
        sun.spots_.push_back(spot);
    });
    sky.fill_frames();
    return sun;
}

std::vector<SunSpot> SunLight::gathered_within(double angle) const {
    const auto cells = static_cast<std::uint32_t>(
        std::clamp(std::ceil(std::numbers::pi / 2 / angle), 1.0, 16384.0));
    std::map<std::array<std::uint32_t, 3>, SunSpot> by_cell;
    for (const SunSpot& spot : spots_) {
        const CubeTexel cell =
            texel_at(face_point(Direction{static_cast<double>(spot.x), static_cast<double>(spot.y),
                                          static_cast<double>(spot.z)}),
                     cells);
        SunSpot& sum = by_cell[{static_cast<std::uint32_t>(cell.face), cell.x, cell.y}];
        const float weight = light_of(spot.light.data());
        sum.x += weight * spot.x, sum.y += weight * spot.y, sum.z += weight * spot.z;
        for (std::size_t c = 0; c < 3; ++c)
            sum.light[c] += spot.light[c];
    }
    std::vector<SunSpot> gathered;
    for (auto& [cell, spot] : by_cell) {
        const float length = std::sqrt(spot.x * spot.x + spot.y * spot.y + spot.z * spot.z);
        if (!(length > 0))
            continue;
        spot.x /= length, spot.y /= length, spot.z /= length;
        gathered.push_back(spot);
    }
    return gathered;
}

}  // namespace yl
