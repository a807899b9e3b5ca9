#include "report/page/drawings.hpp"

#include <span>
#include <string_view>
#include <vector>

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

/// A scene that shows the texture, of so many pixels.
template <class Scene>
struct Named {
    std::string_view name = {};
    Scene scene = {};
};

std::vector<Named<Scene>> plane_scenes(const Texture& texture, std::uint32_t width,
                                       std::uint32_t height) {
    constexpr float several = 3;
    const auto panel = [&](float tiles) {
        return panel_scene({.width = width,
                            .height = height,
                            .tiles = {tiles, tiles},
                            .texture_aspect = aspect_of(texture.shape())});
    };
    return {{"floor", floor_scene({.width = width, .height = height})},
            {"panel", panel(1)},
            {"panel, 3 x 3", panel(several)}};
}

std::vector<Named<CubeScene>> cube_scenes(std::uint32_t width, std::uint32_t height) {
    const SkyOptions options{.width = width, .height = height};
    return {{"sky", sky_scene(options)}, {"ball", ball_scene(options)}};
}

Json scene_json(std::string_view name, const std::vector<float>& numbers) {
    return {{"name", name}, {"width", live_width}, {"height", live_height}, {"numbers", numbers}};
}

Result<std::string> jpeg_text(const Image& picture) {
    YL_TRY(const Image colors, convert(picture.view(), Format::rgb8_srgb, {}));
    YL_TRY(const auto bytes, encode_picture("jpg", colors.view(), {.quality = drawn_quality}));
    std::string text;
    append_base64(text, bytes);
    return text;
}

/// The scenes through a sampler, or the first of them.
Result<Json> drawn(const Texture& first, const Sampler& sampler, bool first_alone) {
    const LevelRange range = LevelRange::of(first.shape());
    Json pictures = Json::array();
    const auto add = [&](std::string_view name, const Result<Image>& picture) -> Status {
        if (!picture)
            return tl::unexpected(picture.error());
        YL_TRY(std::string text, jpeg_text(*picture));
        pictures.push_back({{"scene", name}, {"picture", std::move(text)}});
        return {};
    };
    const auto add_all = [&](const auto& scenes, const auto& draw) -> Status {
        for (const auto& one : std::span(scenes).first(first_alone ? 1 : scenes.size()))
            YL_CHECK(add(one.name, draw(one.scene)));
        return {};
    };
    if (first.shape().faces == 6) {
        YL_TRY(const CubeSampler unit, CubeSampler::create(first, sampler, range));
        YL_CHECK(add_all(cube_scenes(drawn_width, drawn_height),
                         [&](const CubeScene& scene) { return draw_cube_scene(scene, unit); }));
    } else {
        YL_TRY(const TextureSampler unit, TextureSampler::create(first, sampler, range));
        YL_CHECK(add_all(plane_scenes(first, drawn_width, drawn_height),
                         [&](const Scene& scene) { return draw_scene(scene, unit); }));
    }
    return pictures;
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
    Json scenes = Json::array();
    if (texture.shape().faces == 6)
        for (const auto& [name, scene] : cube_scenes(live_width, live_height))
            scenes.push_back(scene_json(name, numbers_of(scene)));
    else
        for (const auto& [name, scene] : plane_scenes(texture, live_width, live_height))
            scenes.push_back(scene_json(name, numbers_of(scene, texture.metadata.alpha)));
    return scenes;
}

Result<Json> drawings_of(const Texture& first, const Sampler& sampler) {
    YL_TRY(Json own, drawn(first, sampler, false));
    Json json = {{"own", std::move(own)}, {"usual", Json::array()}};
    for (const Sampler& usual : usual_samplers(sampler)) {
        YL_TRY(const Json pictures, drawn(first, usual, true));
        json["usual"].push_back(
            {{"sampler", sampler_json(usual)}, {"picture", pictures[0]["picture"]}});
    }
    return json;
}

}  // namespace yl::report
