#include "render/model/shade.hpp"

#include <yl/status_macros.hpp>
#include "sampling/level_choice.hpp"

namespace yl {
namespace {

Vector3 towards(const Vector3& from, const Vector3& to) {
    return normalised({to[0] - from[0], to[1] - from[1], to[2] - from[2]});
}

Rgba gray(float shade) {
    return {shade, shade, shade, 1};
}

Rgba shown_coordinates(const std::array<float, 2>& uv) {
    const auto part = [](float x) { return x - std::floor(x); };
    const bool is_dark =
        (static_cast<int>(part(uv[0]) * 8) + static_cast<int>(part(uv[1]) * 8)) % 2 == 1;
    const float shade = is_dark ? chequer_shade : 1.0F;
    return {part(uv[0]) * shade, part(uv[1]) * shade, 0.15F * shade, 1};
}

}  // namespace

float shape_shade(const Vector3& normal, const Vector3& towards_viewer) {
    return 0.45F + 0.55F * std::max(dot(normal, towards_viewer), 0.0F);
}

std::array<float, 2> SurfaceShader::Unit::coordinate(const MeshFragment& fragment) const {
    const auto& uv = fragment.coordinates[use.coordinate_set];
    const auto& m = use.matrix;
    return {m[0] * uv[0] + m[1] * uv[1] + m[2], m[3] * uv[0] + m[4] * uv[1] + m[5]};
}

Footprint SurfaceShader::Unit::footprint(const MeshFragment& fragment) const {
    const Footprint& area = fragment.footprints[use.coordinate_set];
    const auto& m = use.matrix;
    return {m[0] * area.du_dx + m[1] * area.dv_dx, m[3] * area.du_dx + m[4] * area.dv_dx,
            m[0] * area.du_dy + m[1] * area.dv_dy, m[3] * area.du_dy + m[4] * area.dv_dy};
}

Rgba SurfaceShader::Unit::read(const MeshFragment& fragment) const {
    const auto uv = coordinate(fragment);
    return sampler.sample(uv[0], uv[1], footprint(fragment));
}

float SurfaceShader::Unit::level(const MeshFragment& fragment) const {
    const TextureShape& shape = sampler.texture().shape();
    const auto width = static_cast<float>(shape.width), height = static_cast<float>(shape.height);
    const Footprint area = footprint(fragment);
    const float across = std::hypot(area.du_dx * width, area.dv_dx * height);
    const float down = std::hypot(area.du_dy * width, area.dv_dy * height);
    const float longer = std::max(across, down);
    const float along = samples_along(longer, std::min(across, down), use.sampler.max_anisotropy);
    const float detail = clamp_level_of_detail(use.sampler, std::log2(longer / along));
    const LevelChoice choice =
        choose_level(use.sampler, LevelRange::of(shape), shape.levels, detail);
    return static_cast<float>(choice.level) + choice.share_of_next;
}

Result<SurfaceShader> SurfaceShader::create(const ModelScene& scene, std::size_t surface,
                                            const ModelCamera& camera, ModelShow show,
                                            LevelCurve curve) {
    SurfaceShader shader;
    shader.surface_ = &scene.surfaces[surface];
    shader.number_ = surface;
    shader.camera_ = camera;
    shader.show_ = show;
    const auto fill = [&](OptionalUnit& unit, const std::optional<SurfaceTexture>& use) -> Status {
        if (!use)
            return {};
        if (use->texture >= scene.textures.size() || use->coordinate_set > 1)
            return fail(ErrorKind::malformed, "a material names a texture that is not there");
        const Texture& texture = scene.textures[use->texture];
        YL_TRY(
            TextureSampler sampler,
            TextureSampler::create(texture, use->sampler, LevelRange::of(texture.shape()), curve));
        unit.emplace(Unit{*use, std::move(sampler)});
        return {};
    };
    const Material& from = *shader.surface_;
    YL_CHECK(fill(shader.base_color_, from.base_color_texture));
    YL_CHECK(fill(shader.metallic_roughness_, from.metallic_roughness_texture));
    YL_CHECK(fill(shader.normal_, from.normal_texture));
    YL_CHECK(fill(shader.occlusion_, from.occlusion_texture));
    YL_CHECK(fill(shader.emissive_, from.emissive_texture));
    return shader;
}

Rgba SurfaceShader::base(const MeshFragment& fragment) const {
    if (base_color_ && base_color_->use.is_placeholder)
        return base_color_->read(fragment);
    Rgba color = base_color_ ? base_color_->read(fragment) : Rgba{1, 1, 1, 1};
    for (std::size_t c = 0; c < 4; ++c)
        color[c] *= surface_->base_color[c] * fragment.color[c];
    return color;
}

Vector3 SurfaceShader::normal(const MeshFragment& fragment) const {
    Vector3 n = normalised(fragment.normal);
    if (!fragment.is_front)
        n = {-n[0], -n[1], -n[2]};
    if (!normal_)
        return n;
    const Vector3 t = normalised({fragment.tangent[0], fragment.tangent[1], fragment.tangent[2]});
    Vector3 b = cross(normalised(fragment.normal), t);
    for (float& part : b)
        part *= fragment.tangent[3];
    const Vector3 m =
        normal_from(normal_->read(fragment), info(normal_->sampler.texture().shape().format),
                    surface_->normal_scale);
    Vector3 turned{};
    for (std::size_t axis = 0; axis < 3; ++axis)
        turned[axis] = m[0] * t[axis] + m[1] * b[axis] + m[2] * n[axis];
    return normalised(turned);
}

Rgba SurfaceShader::lit(const MeshFragment& fragment, const Rgba& base) const {
    const Vector3 n = normal(fragment);
    const Vector3 l = camera_.towards_lamp(), v = towards(fragment.position, camera_.eye);
    float metallic = surface_->metallic, roughness = surface_->roughness, open = 1;
    if (metallic_roughness_) {
        const Rgba read = metallic_roughness_->read(fragment);
        metallic *= read[2];
        roughness *= read[1];
    }
    if (occlusion_)
        open += surface_->occlusion_strength * (occlusion_->read(fragment)[0] - 1);
    const Shine shining = shine(n, l, v, std::max(roughness, 0.05F));
    const float direct = 0.85F * std::max(dot(n, l), 0.0F);
    const float ambient = open * (0.30F + 0.12F * n[1]);
    const Rgba glow = emissive_ ? emissive_->read(fragment) : Rgba{1, 1, 1, 1};
    Rgba color = {0, 0, 0, 1};
    for (std::size_t c = 0; c < 3; ++c) {
        const float head_on = 0.04F * (1 - metallic) + base[c] * metallic;
        const float matt = base[c] * (1 - metallic);
        color[c] = matt * (direct + ambient) + head_on * ambient * 1.4F +
                   2.0F * shining.at(head_on) + surface_->emissive[c] * glow[c];
    }
    return color;
}

Rgba SurfaceShader::level_shown(const MeshFragment& fragment) const {
    if (!base_color_ || base_color_->use.is_placeholder)
        return gray(plain_gray);
    const float level = base_color_->level(fragment);
    const auto finer = static_cast<std::size_t>(level);
    return blended(level_color(finer), level_color(finer + 1), level - static_cast<float>(finer));
}

std::optional<Rgba> SurfaceShader::color(const MeshFragment& fragment) const {
    if (!fragment.is_front && !surface_->is_two_sided)
        return std::nullopt;
    const Rgba base_here = base(fragment);
    if (surface_->alpha == AlphaUse::mask && base_here[3] < surface_->cutoff)
        return std::nullopt;
    Rgba shown = gray(plain_gray);
    if (show_ == ModelShow::lit)
        shown = surface_->is_unlit ? base_here : lit(fragment, base_here);
    else if (show_ == ModelShow::uv && fragment.has_coordinates)
        shown = shown_coordinates(fragment.coordinates[0]);
    else if (show_ == ModelShow::slot)
        shown = slot_color(number_);
    else if (show_ == ModelShow::level)
        shown = level_shown(fragment);
    const Vector3 n = normal(fragment);
    if (show_ == ModelShow::normal)
        shown = {0.5F + 0.5F * n[0], 0.5F + 0.5F * n[1], 0.5F + 0.5F * n[2], 1};
    else if (show_ != ModelShow::lit) {
        const float shade = shape_shade(n, towards(fragment.position, camera_.eye));
        for (std::size_t c = 0; c < 3; ++c)
            shown[c] *= shade;
    }
    const bool is_covering = surface_->alpha == AlphaUse::blend && show_ == ModelShow::lit;
    shown[3] = is_covering ? std::clamp(base_here[3], 0.0F, 1.0F) : 1.0F;
    return shown;
}

}  // namespace yl
