// Pictures to measure with: something like a photograph, and something like a drawing.
#pragma once

#include <cmath>
#include <random>
#include <yl/yl.hpp>

namespace bench {

/// Octaves of smooth noise, each twice as fine and about half as strong as the one before, as
/// photographs have them, a few hard edges, and the grain of a sensor.
inline yl::Image photograph(std::uint32_t side) {
    yl::Image image = *yl::Image::create(yl::Format::rgb8_srgb, side, side);
    constexpr std::uint32_t grid = 256;
    std::mt19937 random(1);
    std::vector<float> cells(grid * grid);
    for (float& cell : cells)
        cell = static_cast<float>(random() % 1000) / 1000.0F;
    const auto noise = [&](float x, float y) {
        const auto i = static_cast<std::uint32_t>(x), j = static_cast<std::uint32_t>(y);
        const float s = x - static_cast<float>(i), t = y - static_cast<float>(j);
        const auto cell = [&](std::uint32_t u, std::uint32_t v) {
            return cells[(v % grid) * grid + u % grid];
        };
        const float top = cell(i, j) + (cell(i + 1, j) - cell(i, j)) * s;
        const float bottom = cell(i, j + 1) + (cell(i + 1, j + 1) - cell(i, j + 1)) * s;
        return top + (bottom - top) * t;
    };
    const yl::ImageView view = image.view();
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            const bool roof = (x / 7 + y / 3) % 400 < 90;
            float light = roof ? 40.0F : 90.0F, warmth = 0;
            float frequency = 1.0F / 512;
            for (float weight = 64; frequency < 1; weight *= 0.6F, frequency *= 2) {
                const auto u = static_cast<float>(x) * frequency;
                const auto v = static_cast<float>(y) * frequency;
                light += weight * noise(u, v);
                if (weight >= 16)
                    warmth += weight * (noise(v + 31, u + 17) - 0.5F);
            }
            const float rgb[3] = {light + warmth, light, light * 0.8F - warmth};
            for (std::uint32_t c = 0; c < 3; ++c) {
                const float value = rgb[c] + static_cast<float>(random() % 9) - 4.0F;
                view.data[y * view.row_stride + x * 3 + c] =
                    static_cast<std::byte>(std::min(std::max(value, 0.0F), 255.0F));
            }
        }
    return image;
}

/// Flat shapes with hard edges, as people draw them.
inline yl::Image drawing(std::uint32_t side) {
    yl::Image image = *yl::Image::create(yl::Format::rgb8_srgb, side, side);
    const yl::ImageView view = image.view();
    for (std::uint32_t y = 0; y < side; ++y)
        for (std::uint32_t x = 0; x < side; ++x) {
            const bool ring =
                static_cast<int>(std::hypot(x % 300 - 150.0, y % 260 - 130.0)) / 12 % 2 == 0;
            std::byte* pixel = view.data + y * view.row_stride + std::size_t{x} * 3;
            pixel[0] = std::byte{ring ? std::uint8_t{240} : std::uint8_t{30}};
            pixel[1] = std::byte{static_cast<std::uint8_t>(x / 64 * 16)};
            pixel[2] = std::byte{static_cast<std::uint8_t>(y / 128 * 32)};
        }
    return image;
}

/// The picture in another format, as linear numbers.
inline yl::Image as_format(const yl::Image& image, yl::Format format) {
    return *yl::convert(image.view(), format, {.source_transfer = yl::Transfer::linear});
}

}  // namespace bench
