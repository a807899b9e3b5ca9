#include <algorithm>

#include "base/out_of_memory.hpp"
#include "render/light.hpp"
#include "render/scene_walk.hpp"

namespace yl {
namespace {

Vector3 viewer_at(const Scene& scene, std::uint32_t column, std::uint32_t row) {
    const float x = static_cast<float>(column) + 0.5F;
    const float y = static_cast<float>(row) + 0.5F;
    const auto& m = scene.viewer_from_pixel;
    return normalised(
        {m[0] * x + m[1] * y + m[2], m[3] * x + m[4] * y + m[5], m[6] * x + m[7] * y + m[8]});
}

}  // namespace

Rgba lit_color(const Scene& scene, const TextureSampler& normals, const Lamp& lamp,
               std::uint32_t column, std::uint32_t row) {
    const TextureCoordinate at = coordinate_at(scene, column, row);
    if (!is_seen(scene, at))
        return {0, 0, 0, 1};
    const Footprint area = quad_footprint(scene, column, row);
    const Vector3 n =
        normal_from(plane_texel(scene, normals, at, area), info(normals.texture().shape().format));
    const float roughness = lamp.roughness_map != nullptr
                                ? plane_texel(scene, *lamp.roughness_map, at, area)[0]
                                : lamp.roughness;
    const Vector3 l = normalised(lamp.towards);
    const float diffuse = std::max(dot(n, l), 0.0F) + 0.25F;
    const float shining = shine(n, l, viewer_at(scene, column, row), roughness).at(0.02F);  // water
    Rgba color = {0, 0, 0, 1};
    for (std::size_t c = 0; c < 3; ++c)
        color[c] = lamp.strength * (lamp.surface[c] * diffuse + shining);
    return color;
}

Result<Image> draw_lit_scene(const Scene& scene, const TextureSampler& normals,
                             const Lamp& lamp) try {
    return draw_pixels(scene, [&](std::uint32_t column, std::uint32_t row) {
        return is_seen(scene, coordinate_at(scene, column, row))
                   ? lit_color(scene, normals, lamp, column, row)
                   : backdrop_at(scene, row);
    });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
