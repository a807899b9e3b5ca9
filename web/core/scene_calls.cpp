// Scenes drawn on the CPU: what a device is to show.
#include <yl/scene.hpp>

#include "render/scene_uniforms.hpp"
#include "request.hpp"

namespace yl::web {
namespace {

Result<Scene> scene_of(const Json& request) {
    YL_TRY(const std::string name, text(request, "scene"));
    YL_TRY(const std::uint32_t width, number_or(request, "width", 640));
    YL_TRY(const std::uint32_t height, number_or(request, "height", 400));
    if (name == "floor") {
        FloorOptions options{.width = width, .height = height};
        YL_TRY(options.repeats, decimal_or(request, "repeats", options.repeats));
        YL_TRY(options.pitch, decimal_or(request, "pitch", options.pitch));
        return floor_scene(options);
    }
    if (name == "panel") {
        PanelOptions options{.width = width, .height = height};
        YL_TRY(options.tiles[0], decimal_or(request, "tiles_u", 1));
        YL_TRY(options.tiles[1], decimal_or(request, "tiles_v", 1));
        YL_TRY(options.turn, decimal_or(request, "turn", 0));
        YL_TRY(options.tilt, decimal_or(request, "tilt", 0));
        YL_TRY(options.texture_aspect, decimal_or(request, "aspect", 1));
        return panel_scene(options);
    }
    return wrong("scene", "floor or panel");
}

Result<CubeScene> cube_scene_of(const Json& request) {
    YL_TRY(const std::string name, text(request, "scene"));
    SkyOptions options;
    YL_TRY(options.width, number_or(request, "width", 640));
    YL_TRY(options.height, number_or(request, "height", 400));
    YL_TRY(options.yaw, decimal_or(request, "yaw", 0));
    YL_TRY(options.pitch, decimal_or(request, "pitch", 0));
    YL_TRY(options.stops, decimal_or(request, "stops", 0));
    if (name == "sky")
        return sky_scene(options);
    if (name == "ball")
        return ball_scene(options);
    return wrong("scene", "sky or ball");
}

bool shows_cube(const Json& request) {
    const Json name = request.value("scene", Json());
    return name == "sky" || name == "ball";
}

Result<AlphaMode> alpha_of(const Json& request) {
    if (!has(request, "alpha"))
        return AlphaMode::straight;
    YL_TRY(const std::string name, text(request, "alpha"));
    return name == "premultiplied" ? AlphaMode::premultiplied : AlphaMode::straight;
}

/// What the shaders are told of a scene: vectors of four floats for their uniform block.
Result<Json> describe(Objects&, const Json& request) {
    if (shows_cube(request)) {
        YL_TRY(const CubeScene scene, cube_scene_of(request));
        return Json{{"is_cube", true},
                    {"width", scene.width},
                    {"height", scene.height},
                    {"numbers", numbers_of(scene)}};
    }
    YL_TRY(const Scene scene, scene_of(request));
    YL_TRY(const AlphaMode alpha, alpha_of(request));
    return Json{{"is_cube", false},
                {"width", scene.width},
                {"height", scene.height},
                {"numbers", numbers_of(scene, alpha)}};
}

constexpr const char* webgl_head =
#include "webgl.head.inc"
    ;
constexpr const char* plane_shader =
#include "scene.frag.inc"
    ;
constexpr const char* cube_shader =
#include "cube_scene.frag.inc"
    ;
constexpr const char* vertex_shader =
#include "triangle.vert.inc"
    ;

/// The shaders of the scenes for WebGL 2, the same as OpenGL's.
Result<Json> shaders(Objects&, const Json&) {
    const std::string head = webgl_head;
    return Json{{"vertex", head + vertex_shader},
                {"plane", head + plane_shader},
                {"cube", head + cube_shader}};
}

Result<Json> draw(Objects& objects, const Json& request) {
    YL_TRY(const Texture* texture, object<Texture>(objects, request, "texture"));
    YL_TRY(const auto given, sampler_of(request));
    const Sampler sampler = given.value_or(texture->metadata.sampler.value_or(Sampler{}));
    const LevelRange range = LevelRange::of(texture->shape());
    if (shows_cube(request)) {
        YL_TRY(const CubeScene scene, cube_scene_of(request));
        YL_TRY(const CubeSampler unit, CubeSampler::create(*texture, sampler, range));
        YL_TRY(Image image, draw_cube_scene(scene, unit));
        return kept(objects, std::move(image));
    }
    YL_TRY(const Scene scene, scene_of(request));
    YL_TRY(const TextureSampler unit, TextureSampler::create(*texture, sampler, range));
    YL_TRY(Image image, draw_scene(scene, unit));
    return kept(objects, std::move(image));
}

constexpr NamedCall calls[] = {
    {"scene", describe,
     "scene width height repeats pitch tiles_u tiles_v turn tilt aspect yaw stops alpha sampler"},
    {"shaders", shaders, ""},
    {"draw", draw,
     "texture sampler scene width height repeats pitch tiles_u tiles_v turn tilt aspect yaw stops "
     "alpha"}};

}  // namespace

std::span<const NamedCall> scene_calls() {
    return calls;
}

}  // namespace yl::web
