// What a pixel of a scene sees of its plane.
#pragma once

#include <vector>

#include <yl/scene.hpp>
#include <yl/status_macros.hpp>
#include "base/parallel.hpp"
#include "pixel/rows.hpp"

namespace yl {

struct TextureCoordinate {
    float u = 0, v = 0, q = 0;
};

[[nodiscard]] TextureCoordinate coordinate_at(const Scene& scene, std::uint32_t column,
                                              std::uint32_t row);

/// The derivatives that all four pixels of a 2 x 2 quad share.
[[nodiscard]] Footprint quad_footprint(const Scene& scene, std::uint32_t column, std::uint32_t row);

[[nodiscard]] bool is_seen(const Scene& scene, const TextureCoordinate& at);

/// What the plane shows there: the texture, or a part of it.
[[nodiscard]] Rgba plane_texel(const Scene& scene, const TextureSampler& sampler,
                               const TextureCoordinate& at, const Footprint& footprint);

[[nodiscard]] Rgba backdrop_at(const Scene& scene, std::uint32_t row);

/// Opaque.
[[nodiscard]] Rgba mix(const Rgba& a, const Rgba& b, float share_of_b);

/// Stores a picture, as large as the scene, of what `color(column, row)` gives, in linear light.
template <class AnyScene, class Color>
[[nodiscard]] Result<Image> draw_pixels(const AnyScene& scene, const Color& color) {
    YL_TRY(Image picture, Image::create(Format::rgba8_srgb, scene.width, scene.height));
    const ImageView view = picture.view();
    const RowCodec codec = row_codec(Format::rgba8_srgb, Transfer::srgb);
    parallel_each(scene.height, [&](std::size_t index) {
        const auto row = static_cast<std::uint32_t>(index);
        std::vector<Rgba> colors(scene.width);
        for (std::uint32_t x = 0; x < scene.width; ++x) {
            colors[x] = color(x, row);
            colors[x][3] = 1;
        }
        codec.store(colors[0].data(), view.row(row).data(), scene.width);
    });
    return picture;
}

}  // namespace yl
