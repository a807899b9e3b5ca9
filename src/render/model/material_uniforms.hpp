// What the shader is told of a surface: vectors of four floats, in the order of shaders/model.frag.
#pragma once

#include <vector>

#include "render/model/projection.hpp"
#include "render/model/shade.hpp"

namespace yl {

[[nodiscard]] inline std::array<const std::optional<SurfaceTexture>*, 5> textures_of(
    const Material& surface) {
    return {&surface.base_color_texture, &surface.metallic_roughness_texture,
            &surface.normal_texture, &surface.occlusion_texture, &surface.emissive_texture};
}

class MaterialUniforms {
 public:
    /// Of what is drawn before everything else, in the colours of its vertices.
    [[nodiscard]] static std::vector<float> of_backdrop() {
        MaterialUniforms numbers;
        numbers.add(-1, 0, 0, 0);
        numbers.numbers_.resize(vectors * 4);
        return std::move(numbers.numbers_);
    }

    [[nodiscard]] static std::vector<float> of(const ModelScene& scene, const Primitive& part,
                                               const ModelCamera& camera, ModelShow show) {
        MaterialUniforms numbers;
        const Material& surface = scene.surfaces[part.surface];
        numbers.add(static_cast<float>(show), static_cast<float>(surface.alpha),
                    surface.is_two_sided ? 1.0F : 0.0F, surface.cutoff);
        numbers.add(surface.base_color);
        numbers.add(surface.metallic, surface.roughness, surface.normal_scale,
                    surface.occlusion_strength);
        numbers.add(surface.emissive);
        numbers.add(slot_color(part.surface));
        numbers.add(camera.eye);
        numbers.add(camera.towards_lamp());
        numbers.add(chequer_shade, plain_gray, part.has_coordinates ? 1.0F : 0.0F,
                    surface.is_unlit ? 1.0F : 0.0F);
        numbers.add_level_choice(scene, surface.base_color_texture);
        for (std::size_t level = 0; level < 8; ++level)
            numbers.add(level_color(level));
        for (const auto* texture : textures_of(surface))
            numbers.add_unit(scene, *texture);
        return std::move(numbers.numbers_);
    }

 private:
    static constexpr std::size_t vectors = 10 + 8 + 5 * 3;

    MaterialUniforms() { numbers_.reserve(vectors * 4); }

    void add(float a, float b, float c, float d) {
        for (const float number : {a, b, c, d})
            numbers_.push_back(number);
    }
    void add(const Rgba& v) { add(v[0], v[1], v[2], v[3]); }
    void add(const Vector3& v) { add(v[0], v[1], v[2], 0); }

    void add_level_choice(const ModelScene& scene, const std::optional<SurfaceTexture>& use) {
        const TextureShape shape = use ? scene.textures[use->texture].shape() : TextureShape{};
        const Sampler sampler = use ? use->sampler : Sampler{};
        add(static_cast<float>(shape.width), static_cast<float>(shape.height),
            static_cast<float>(shape.levels) - 1, static_cast<float>(sampler.mip));
        add(sampler.level_bias, sampler.min_level, sampler.max_level, sampler.max_anisotropy);
    }

    void add_unit(const ModelScene& scene, const std::optional<SurfaceTexture>& use) {
        const SurfaceTexture unit = use.value_or(SurfaceTexture{});
        const auto& m = unit.matrix;
        add(m[0], m[1], m[2], use ? 1.0F : 0.0F);
        add(m[3], m[4], m[5], static_cast<float>(unit.coordinate_set));
        const FormatInfo& format =
            info(use ? scene.textures[unit.texture].shape().format : Format::rgba8_unorm);
        add(format.kind != NumericKind::unorm ? 1.0F : 0.0F,
            format.channel_count == 2 ? 1.0F : 0.0F, unit.is_placeholder ? 1.0F : 0.0F, 0);
    }

    std::vector<float> numbers_ = {};
};

}  // namespace yl
