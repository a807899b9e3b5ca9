#include <yl/status_macros.hpp>

#include "draw_cube.hpp"

#include "describe.hpp"

namespace ylat {
namespace {

yl::Result<yl::CubeScene> scene_of(const CubeView& view, const yl::Texture& cube) {
    yl::CubeScene scene = view.is_ball ? yl::ball_scene(view.sky) : yl::sky_scene(view.sky);
    const bool is_prefiltered = !yl::roughness_of_levels(cube).empty();
    if (is_prefiltered)
        scene.sky_level = 0;
    if (view.is_ball && (view.roughness || is_prefiltered))
        scene.ball_level = yl::level_of_roughness(cube, view.roughness.value_or(0));
    if (view.matt) {
        const auto note = cube.metadata.key_values.find(yl::irradiance_note);
        scene.matt_ball = note != cube.metadata.key_values.end() ? yl::parse_harmonics(note->second)
                                                                 : std::nullopt;
        if (!scene.matt_ball) {
            YL_TRY(const auto projected, yl::project_to_harmonics(cube));
            scene.matt_ball = projected;
        }
    }
    return scene;
}

}  // namespace

yl::Result<yl::Image> draw_cube(const CubeView& view, const yl::Texture& cube,
                                const yl::Sampler& sampler, Driver* driver) {
    YL_TRY(const auto scene, scene_of(view, cube));
    if (driver != nullptr)
        return driver->draw(scene, cube, sampler);
    YL_TRY(const auto unit,
           yl::CubeSampler::create(cube, sampler, yl::LevelRange::of(cube.shape()), device_curve));
    return yl::draw_cube_scene(scene, unit);
}

}  // namespace ylat
