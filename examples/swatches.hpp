// Two hundred small textures, no two of them alike.
#pragma once

#include <cmath>
#include <vector>
#include <yl/yl.hpp>

/// Squares of all hues, each with a ring of its own width. Fails only when memory runs out.
inline yl::Result<std::vector<yl::Texture>> make_swatches(std::size_t count) {
    std::vector<yl::Texture> swatches;
    for (std::size_t i = 0; i < count; ++i) {
        constexpr std::uint32_t side = 32;
        auto texture = yl::Texture::create(
            {.format = yl::Format::rgba8_srgb, .width = side, .height = side, .levels = 6});
        if (!texture)
            return tl::unexpected(texture.error());
        const float share = static_cast<float>(i) / static_cast<float>(count);
        const float ring = 5 + 9 * static_cast<float>(i % 10) / 10;
        for (std::uint32_t y = 0; y < side; ++y)
            for (std::size_t x = 0; x < side; ++x) {
                const float distance =
                    std::hypot(static_cast<float>(x) - 15.5F, static_cast<float>(y) - 15.5F);
                const float light = std::abs(distance - ring) < 1.7F ? 1.0F : 0.45F;
                for (std::size_t c = 0; c < 3; ++c) {
                    const float hue = 6.2832F * (share - static_cast<float>(c) / 3);
                    const float value = 255 * light * (0.5F + 0.5F * std::cos(hue));
                    texture->image(0).row(y)[4 * x + c] =
                        static_cast<std::byte>(std::lround(value));
                }
                texture->image(0).row(y)[4 * x + 3] = std::byte{255};
            }
        if (auto status = yl::build_mips(*texture); !status)
            return tl::unexpected(status.error());
        swatches.push_back(std::move(*texture));
    }
    return swatches;
}
