// Noise that repeats at the picture's edges and is the same on every machine.
#pragma once

#include <cmath>
#include <cstdint>

namespace glasshouse {

/// A well-mixed number of two coordinates and a seed (the finaliser of MurmurHash3).
inline std::uint32_t mix(std::uint32_t x, std::uint32_t y, std::uint32_t seed) {
    std::uint32_t h = x * 0x9E3779B1U ^ y * 0x85EBCA77U ^ seed * 0xC2B2AE3DU;
    h = (h ^ h >> 16) * 0x85EBCA6BU;
    h = (h ^ h >> 13) * 0xC2B2AE35U;
    return h ^ h >> 16;
}

/// 0 .. 1
inline double random01(std::uint32_t x, std::uint32_t y, std::uint32_t seed) {
    return mix(x, y, seed) / 4294967295.0;
}

/// Value noise on a grid of `cells_x` by `cells_y` over the unit square, which it tiles; 0 .. 1.
inline double noise(double u, double v, std::uint32_t cells_x, std::uint32_t cells_y,
                    std::uint32_t seed) {
    const double x = (u - std::floor(u)) * cells_x;
    const double y = (v - std::floor(v)) * cells_y;
    const auto i = static_cast<std::uint32_t>(x) % cells_x;
    const auto j = static_cast<std::uint32_t>(y) % cells_y;
    const auto smooth = [](double t) { return t * t * t * (t * (t * 6 - 15) + 10); };
    const double s = smooth(x - std::floor(x));
    const double t = smooth(y - std::floor(y));
    const auto corner = [&](std::uint32_t dx, std::uint32_t dy) {
        return random01((i + dx) % cells_x, (j + dy) % cells_y, seed);
    };
    const double top = corner(0, 0) + (corner(1, 0) - corner(0, 0)) * s;
    const double bottom = corner(0, 1) + (corner(1, 1) - corner(0, 1)) * s;
    return top + (bottom - top) * t;
}

/// Octaves of noise, each twice as fine and half as strong; 0 .. 1.
inline double layered_noise(double u, double v, std::uint32_t cells_x, std::uint32_t cells_y,
                            int octaves, std::uint32_t seed) {
    double sum = 0;
    double weight = 0.5;
    double total = 0;
    for (int octave = 0; octave < octaves; ++octave, weight /= 2) {
        sum += weight * noise(u, v, cells_x << octave, cells_y << octave,
                              seed + static_cast<std::uint32_t>(octave));
        total += weight;
    }
    return sum / total;
}

inline double clamp01(double x) {
    return x < 0 ? 0 : x > 1 ? 1 : x;
}

/// 0 below `from`, 1 above `to`, smooth between.
inline double ramp(double from, double to, double x) {
    const double t = clamp01((x - from) / (to - from));
    return t * t * (3 - 2 * t);
}

}  // namespace glasshouse
