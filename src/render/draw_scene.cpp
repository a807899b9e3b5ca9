#include <yl/scene.hpp>

#include <algorithm>
#include <cmath>

#include "base/out_of_memory.hpp"
#include "render/scene_walk.hpp"

namespace yl {

TextureCoordinate coordinate_at(const Scene& scene, std::uint32_t column, std::uint32_t row) {
    const float x = static_cast<float>(column) + 0.5F;
    const float y = static_cast<float>(row) + 0.5F;
    const auto& m = scene.texture_from_pixel;
    const float q = m[6] * x + m[7] * y + m[8];
    const float divisor = std::max(q, scene.min_q);
    return {(m[0] * x + m[1] * y + m[2]) / divisor, (m[3] * x + m[4] * y + m[5]) / divisor, q};
}

Footprint quad_footprint(const Scene& scene, std::uint32_t column, std::uint32_t row) {
    const std::uint32_t left = column & ~1U;
    const std::uint32_t top = row & ~1U;
    const TextureCoordinate corner = coordinate_at(scene, left, top);
    const TextureCoordinate right = coordinate_at(scene, left + 1, top);
    const TextureCoordinate below = coordinate_at(scene, left, top + 1);
    return {right.u - corner.u, right.v - corner.v, below.u - corner.u, below.v - corner.v};
}

bool is_seen(const Scene& scene, const TextureCoordinate& at) {
    if (!(at.q >= scene.min_q))
        return false;
    return !scene.is_bounded ||
           (at.u >= 0 && at.u <= scene.u_end && at.v >= 0 && at.v <= scene.v_end);
}

Rgba mix(const Rgba& a, const Rgba& b, float share_of_b) {
    Rgba result = {0, 0, 0, 1};
    for (std::size_t c = 0; c < 3; ++c)
        result[c] = a[c] * (1 - share_of_b) + b[c] * share_of_b;
    return result;
}

Rgba backdrop_at(const Scene& scene, std::uint32_t row) {
    return mix(scene.backdrop_top, scene.backdrop_bottom,
               (static_cast<float>(row) + 0.5F) / static_cast<float>(scene.height));
}

namespace {

/// The longer side of a footprint, in texels of an image of this size.
float longest_side(const Footprint& f, float width, float height) {
    return std::max(std::hypot(f.du_dx * width, f.dv_dx * height),
                    std::hypot(f.du_dy * width, f.dv_dy * height));
}

/// A part of an atlas, as `part_shader` reads it.
Rgba read_part(const TextureSampler& sampler, const PartCoordinates& part, float u, float v,
               const Footprint& f) {
    const auto& m = part.atlas_from_picture;
    if (part.repeats) {
        u -= std::floor(u);
        v -= std::floor(v);
    }
    const auto& box = part.box;
    if (!(u >= box[0] && v >= box[1] && u <= box[2] && v <= box[3]))
        return {};
    const float across = m[0] * u + m[1] * v + m[2], down = m[3] * u + m[4] * v + m[5];
    const Footprint on_atlas = {m[0] * f.du_dx + m[1] * f.dv_dx, m[3] * f.du_dx + m[4] * f.dv_dx,
                                m[0] * f.du_dy + m[1] * f.dv_dy, m[3] * f.du_dy + m[4] * f.dv_dy};
    const float texels = longest_side(on_atlas, part.last_level_size[0], part.last_level_size[1]);
    const TextureShape& shape = sampler.texture().shape();
    const auto width = static_cast<float>(shape.width), height = static_cast<float>(shape.height);
    const float longest = longest_side(on_atlas, width, height) / std::max(texels, 1.0F);
    const Rgba all_round = sampler.sample_level(across, down, std::log2(std::max(longest, 1e-9F)));
    if (!(texels < 0.5F))
        return all_round;
    const Rgba along = sampler.sample(across, down, on_atlas);
    const float t = std::clamp((texels - 0.25F) / 0.25F, 0.0F, 1.0F);
    const float share = t * t * (3 - 2 * t);
    Rgba result = {};
    for (std::size_t c = 0; c < 4; ++c)
        result[c] = along[c] * (1 - share) + all_round[c] * share;
    return result;
}

}  // namespace

Rgba plane_texel(const Scene& scene, const TextureSampler& sampler, const TextureCoordinate& at,
                 const Footprint& footprint) {
    return scene.part ? read_part(sampler, *scene.part, at.u, at.v, footprint)
                      : sampler.sample(at.u, at.v, footprint);
}

namespace {

Rgba pixel_color(const Scene& scene, const TextureSampler& sampler, std::uint32_t column,
                 std::uint32_t row) {
    const Rgba backdrop = backdrop_at(scene, row);
    const TextureCoordinate at = coordinate_at(scene, column, row);
    if (!is_seen(scene, at))
        return backdrop;
    const Rgba surface = plane_texel(scene, sampler, at, quad_footprint(scene, column, row));
    if (scene.cutout_threshold)
        return surface[3] >= *scene.cutout_threshold ? surface : backdrop;
    if (sampler.texture().metadata.alpha == AlphaMode::straight)
        return mix(backdrop, surface, surface[3]);
    Rgba covered = mix(backdrop, surface, 0);
    for (std::size_t c = 0; c < 3; ++c)
        covered[c] = backdrop[c] * (1 - surface[3]) + surface[c];
    return covered;
}

}  // namespace

Result<Image> draw_scene(const Scene& scene, const TextureSampler& sampler) try {
    return draw_pixels(scene, [&](std::uint32_t column, std::uint32_t row) {
        return pixel_color(scene, sampler, column, row);
    });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
