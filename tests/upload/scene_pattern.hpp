// A harsh pattern, and how alike two drawings of it are.
#pragma once

#include <cmath>
#include <yl/yl.hpp>

#include "support/check.hpp"
#include "support/pictures.hpp"

namespace support {

/// Rings and stripes with some noise, with a full chain, and alpha that comes and goes.
inline yl::Texture scene_pattern(yl::Format format, std::uint32_t width, std::uint32_t height) {
    yl::Image image = must(yl::Image::create(yl::Format::rgba32_float, width, height));
    Random random(1);
    std::uniform_real_distribution<float> noise(0.0F, 0.2F);
    for (std::uint32_t y = 0; y < height; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            auto* pixel = reinterpret_cast<float*>(image.view().row(y).data()) + 4 * x;
            const float u = (static_cast<float>(x) + 0.5F) / static_cast<float>(width) - 0.4F;
            const float v = (static_cast<float>(y) + 0.5F) / static_cast<float>(height) - 0.6F;
            pixel[0] = 0.4F + 0.4F * std::sin(60 * std::hypot(u, v)) + noise(random);
            pixel[1] = (x / 9 + y / 5) % 2 == 0 ? 0.8F : 0.1F;
            pixel[2] = noise(random) * 4;
            pixel[3] = 0.5F + 0.5F * std::cos(20 * u);
        }
    yl::Texture texture =
        must(yl::Texture::create({.format = format,
                                  .width = width,
                                  .height = height,
                                  .levels = yl::full_level_count(width, height)}));
    must(yl::convert(
        image.view(), texture.image(0),
        {.source_transfer = yl::Transfer::linear, .to_one_channel = yl::ToOneChannel::red}));
    must(yl::build_mips(texture));
    return texture;
}

inline double share_within_2(const yl::Image& a, const yl::Image& b) {
    return must(yl::compare_pictures(a.view(), b.view(), 2)).share_within();
}

/// The mean step from pixel to pixel in the far part of a floor of 320 x 200 pixels.
inline double far_detail(const yl::Image& image) {
    double sum = 0;
    for (std::uint32_t y = 70; y < 100; ++y)
        for (std::uint32_t x = 1; x < 320; ++x)
            sum += std::abs(std::to_integer<int>(image.view().row(y)[4 * x]) -
                            std::to_integer<int>(image.view().row(y)[4 * x - 4]));
    return sum / (30 * 319);
}

inline const char* const all_filters[] = {
    "mag=nearest min=nearest mip=none",    "mag=linear min=linear mip=none",
    "mag=nearest min=nearest mip=nearest", "mag=linear min=linear mip=nearest",
    "mag=linear min=nearest mip=linear",   "mag=linear min=linear mip=linear"};

inline const char* const all_wraps[] = {"repeat",
                                        "mirror",
                                        "clamp-to-edge",
                                        "clamp-to-border border=0.1,0.5,0.9,0.8",
                                        "mirror-once",
                                        "repeat,clamp-to-border",
                                        "mirror,clamp-to-edge"};

}  // namespace support
