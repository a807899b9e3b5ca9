#include "report/page/drawings.hpp"

#include <yl/convert.hpp>
#include <yl/picture.hpp>
#include <yl/scene.hpp>
#include <yl/status_macros.hpp>
#include "base/base64.hpp"
#include "render/scene_uniforms.hpp"

namespace yl::report {
namespace {

constexpr std::uint32_t live_width = 640, live_height = 400;    // pixels
constexpr std::uint32_t drawn_width = 320, drawn_height = 200;  // of what stands in its place
constexpr int drawn_quality = 80;                               // of JPEG

float aspect_of(const TextureShape& shape) {
    return static_cast<float>(shape.width) / static_cast<float>(shape.height);
}

PanelOptions panel(const Texture& texture, float tiles) {
    return {.width = live_width,
            .height = live_height,
            .tiles = {tiles, tiles},
            .texture_aspect = aspect_of(texture.shape())};
}

Json scene_json(std::string_view name, const std::vector<float>& numbers) {
    return {{"name", name}, {"width", live_width}, {"height", live_height}, {"numbers", numbers}};
}

Result<std::string> drawn(const Texture& first, const Sampler& sampler) {
    const LevelRange range = LevelRange::of(first.shape());
    Image picture;
    if (first.shape().faces == 6) {
        YL_TRY(const CubeSampler unit, CubeSampler::create(first, sampler, range));
        YL_TRY(picture,
               draw_cube_scene(sky_scene({.width = drawn_width, .height = drawn_height}), unit));
    } else {
        YL_TRY(const TextureSampler unit, TextureSampler::create(first, sampler, range));
        YL_TRY(picture,
               draw_scene(floor_scene({.width = drawn_width, .height = drawn_height}), unit));
    }
    YL_TRY(const Image colors, convert(std::as_const(picture).view(), Format::rgb8_srgb, {}));
    YL_TRY(const auto bytes, encode_picture("jpg", colors.view(), {.quality = drawn_quality}));
    std::string text;
    append_base64(text, bytes);
    return text;
}

/// What people choose between.
std::array<Sampler, 4> usual_samplers(const Sampler& given) {
    Sampler nearest = given;
    nearest.mag = nearest.min = Filter::nearest;
    nearest.mip = MipFilter::none;
    nearest.max_anisotropy = 1;
    Sampler linear = nearest;
    linear.mag = linear.min = Filter::linear;
    Sampler trilinear = linear;
    trilinear.mip = MipFilter::linear;
    Sampler anisotropic = trilinear;
    anisotropic.max_anisotropy = 16;
    return {nearest, linear, trilinear, anisotropic};
}

}  // namespace

Json sampler_json(const Sampler& sampler) {
    return {{"mag", name(sampler.mag)},
            {"min", name(sampler.min)},
            {"mip", name(sampler.mip)},
            {"wrap", {name(sampler.wrap[0]), name(sampler.wrap[1]), name(sampler.wrap[2])}},
            {"border", sampler.border},
            {"aniso", sampler.max_anisotropy},
            {"lod", {sampler.min_level, sampler.max_level}},
            {"bias", sampler.level_bias},
            {"text", sampler_text(sampler)}};
}

Json scenes_of(const Texture& texture) {
    if (texture.shape().faces == 6) {
        const SkyOptions options{.width = live_width, .height = live_height};
        return {scene_json("sky", numbers_of(sky_scene(options))),
                scene_json("ball", numbers_of(ball_scene(options)))};
    }
    constexpr float several = 3;
    const AlphaMode alpha = texture.metadata.alpha;
    const FloorOptions floor{.width = live_width, .height = live_height};
    return {scene_json("floor", numbers_of(floor_scene(floor), alpha)),
            scene_json("panel", numbers_of(panel_scene(panel(texture, 1)), alpha)),
            scene_json("panel, 3 x 3", numbers_of(panel_scene(panel(texture, several)), alpha))};
}

Result<Json> drawings_of(const Texture& first, const Sampler& sampler) {
    YL_TRY(const std::string own, drawn(first, sampler));
    Json json = {{"own", own}, {"usual", Json::array()}};
    for (const Sampler& usual : usual_samplers(sampler)) {
        YL_TRY(std::string text, drawn(first, usual));
        json["usual"].push_back({{"sampler", sampler_json(usual)}, {"picture", std::move(text)}});
    }
    return json;
}

}  // namespace yl::report
