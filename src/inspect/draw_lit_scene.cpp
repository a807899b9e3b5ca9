#include <algorithm>
#include <cmath>
#include <numbers>

#include "inspect/scene_walk.hpp"

namespace yl {
namespace {

using Direction = std::array<float, 3>;

float dot(const Direction& a, const Direction& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

Direction normalised(Direction d) {
    const float length = std::sqrt(std::max(dot(d, d), 1e-20F));
    for (float& part : d)
        part /= length;
    return d;
}

Direction viewer_at(const Scene& scene, std::uint32_t column, std::uint32_t row) {
    const float x = static_cast<float>(column) + 0.5F;
    const float y = static_cast<float>(row) + 0.5F;
    const auto& m = scene.viewer_from_pixel;
    return normalised(
        {m[0] * x + m[1] * y + m[2], m[3] * x + m[4] * y + m[5], m[6] * x + m[7] * y + m[8]});
}

/// The normal as a shader takes it from a map: two channels have their third rebuilt, and what the
/// filter left is made one long.
Direction normal_from(const Rgba& stored, const FormatInfo& format) {
    const bool is_signed = format.kind != NumericKind::unorm;
    Direction n{};
    for (std::size_t c = 0; c < 3; ++c)
        n[c] = is_signed ? stored[c] : 2 * stored[c] - 1;
    if (format.channel_count == 2)
        n[2] = std::sqrt(std::max(0.0F, 1 - n[0] * n[0] - n[1] * n[1]));
    return normalised(n);
}

/// GGX with Smith's shadowing in its usual approximation and Schlick's Fresnel term of water.
float specular(const Direction& n, const Direction& l, const Direction& v, float roughness) {
    const Direction h = normalised({l[0] + v[0], l[1] + v[1], l[2] + v[2]});
    const float nl = std::max(dot(n, l), 0.0F);
    const float nv = std::max(dot(n, v), 1e-3F);
    const float nh = std::max(dot(n, h), 0.0F);
    const float alpha = std::max(roughness * roughness, 1e-3F);
    const float squared = alpha * alpha;
    const float spread = nh * nh * (squared - 1) + 1;
    const float lobe = squared / (std::numbers::pi_v<float> * spread * spread);
    const float shadow = 0.5F / (nl * std::sqrt(nv * nv * (1 - squared) + squared) +
                                 nv * std::sqrt(nl * nl * (1 - squared) + squared) + 1e-6F);
    const float facing = 1 - std::clamp(dot(h, v), 0.0F, 1.0F);
    const float fresnel = 0.02F + 0.98F * facing * facing * facing * facing * facing;
    return lobe * shadow * fresnel * nl;
}

}  // namespace

Rgba lit_color(const Scene& scene, const TextureSampler& normals, const Lamp& lamp,
               std::uint32_t column, std::uint32_t row) {
    const TextureCoordinate at = coordinate_at(scene, column, row);
    if (!is_seen(scene, at))
        return {0, 0, 0, 1};
    const Footprint area = quad_footprint(scene, column, row);
    const Direction n =
        normal_from(normals.sample(at.u, at.v, area), info(normals.texture().shape().format));
    const float roughness = lamp.roughness_map != nullptr
                                ? lamp.roughness_map->sample(at.u, at.v, area)[0]
                                : lamp.roughness;
    const Direction l = normalised(lamp.towards);
    const float diffuse = std::max(dot(n, l), 0.0F) + 0.25F;
    const float shine = specular(n, l, viewer_at(scene, column, row), roughness);
    Rgba color = {0, 0, 0, 1};
    for (std::size_t c = 0; c < 3; ++c)
        color[c] = lamp.strength * (lamp.surface[c] * diffuse + shine);
    return color;
}

Result<Image> draw_lit_scene(const Scene& scene, const TextureSampler& normals, const Lamp& lamp) {
    return draw_pixels(scene, [&](std::uint32_t column, std::uint32_t row) {
        return is_seen(scene, coordinate_at(scene, column, row))
                   ? lit_color(scene, normals, lamp, column, row)
                   : backdrop_at(scene, row);
    });
}

}  // namespace yl
