// Made-up skies: light as a function of direction.
#pragma once

#include <cmath>
#include <cstring>
#include <functional>
#include <vector>
#include <yl/yl.hpp>

#include "support/check.hpp"

namespace support {

using Sky = std::function<std::array<double, 3>(const yl::Direction&)>;

inline yl::Direction unit(const yl::Direction& d) {
    const double length = std::hypot(d[0], d[1], d[2]);
    return {d[0] / length, d[1] / length, d[2] / length};
}

/// Waves of many directions over a gradient: no two places are alike.
inline std::array<double, 3> wavy_sky(const yl::Direction& direction) {
    const yl::Direction d = unit(direction);
    const double a = std::sin(5 * d[0] + 3 * d[1]) * std::cos(4 * d[2] - 2 * d[0]);
    const double b = std::sin(7 * d[1] - 2 * d[2] + 1) * std::cos(3 * d[0]);
    return {0.5 + 0.2 * a + 0.1 * d[1], 0.45 + 0.15 * b + 0.1 * d[0],
            0.5 + 0.1 * a * b + 0.2 * d[2]};
}

/// A clear evening, brighter towards one side: hardly anything to hold on to.
inline std::array<double, 3> clear_sky(const yl::Direction& direction) {
    const yl::Direction d = unit(direction);
    const double light = 0.4 + 0.05 * d[1] + 0.03 * d[0] + 0.02 * d[2] + 0.01 * d[0] * d[2];
    return {light * 0.8, light * 0.9 + 0.01 * d[1] * d[0], light};
}

/// The middles of all texels.
inline yl::Texture cube_of(const Sky& sky, std::uint32_t size,
                           yl::Format format = yl::Format::rgba32_float) {
    yl::Texture cube =
        must(yl::Texture::create({.format = format, .width = size, .height = size, .faces = 6}));
    for (std::uint32_t face = 0; face < 6; ++face) {
        yl::Image image = must(yl::Image::create(yl::Format::rgba32_float, size, size));
        for (std::uint32_t y = 0; y < size; ++y)
            for (std::uint32_t x = 0; x < size; ++x) {
                const auto light = sky(yl::direction_at(
                    {yl::all_cube_faces[face], (x + 0.5) / size, (y + 0.5) / size}));
                const float pixel[4] = {static_cast<float>(light[0]), static_cast<float>(light[1]),
                                        static_cast<float>(light[2]), 1};
                std::memcpy(image.view().row(y).data() + std::size_t{x} * sizeof pixel, pixel,
                            sizeof pixel);
            }
        must(yl::convert(image.view(), cube.image(0, 0, face),
                         {.source_transfer = yl::Transfer::linear}));
    }
    return cube;
}

inline std::array<yl::ConstImageView, 6> faces_of(const yl::Texture& cube,
                                                  std::uint32_t level = 0) {
    std::array<yl::ConstImageView, 6> faces;
    for (std::uint32_t i = 0; i < 6; ++i)
        faces[i] = cube.image(level, 0, i);
    return faces;
}

/// Of an `rgba32-float` image.
inline const float* pixel_at(yl::ConstImageView image, std::uint32_t x, std::uint32_t y) {
    return reinterpret_cast<const float*>(image.row(y).data()) + std::size_t{x} * 4;
}

}  // namespace support
