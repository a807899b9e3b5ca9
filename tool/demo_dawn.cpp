#include <yl/status_macros.hpp>

#include "demo_dawn.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <yl/gl_scene.hpp>
#include <yl/yl.hpp>

#include "dawn.hpp"
#include "describe.hpp"

namespace ylat {
namespace {

yl::Result<yl::Texture> cube_of_scrambled(const std::string& folder, const DemoReport& report) {
    std::vector<yl::Picture> pictures;
    std::vector<const yl::Picture*> pointers;
    std::vector<std::string> names;
    for (const yl::CubeFace face : yl::all_cube_faces) {
        names.push_back(fmt::format("dawn_{}.hdr", yl::name(face)));
        YL_TRY(auto picture, yl::read_picture(folder + "/" + names.back()));
        pictures.push_back(std::move(picture));
    }
    for (const yl::Picture& picture : pictures)
        pointers.push_back(&picture);
    YL_TRY(auto baked, yl::bake_cube(pointers, names, {.reorder = true}));
    for (const std::string& change : baked.changes)
        report.say("  put right: " + change);
    report.check(baked.changes.size() == 3);
    const auto seams = yl::measure_cube_seams(baked.texture);
    report.check(seams && !seams->shows());
    return std::move(baked.texture);
}

yl::Result<yl::Texture> cube_of_panorama(const std::string& folder,
                                         const yl::CubeBakeOptions& options) {
    YL_TRY(const auto picture, yl::read_picture(folder + "/dawn.hdr"));
    const yl::Picture* one = &picture;
    YL_TRY(auto baked, yl::bake_cube(std::span(&one, 1), {}, options));
    return std::move(baked.texture);
}

/// Drawn by both; the driver's is kept.
yl::Result<yl::LabelledPicture> drawn(const yl::CubeScene& scene, const yl::Texture& cube,
                                      const std::string& title, double min_share, Driver& gpu,
                                      const DemoReport& report) {
    YL_TRY(const auto unit,
           yl::CubeSampler::create(cube, {}, yl::LevelRange::of(cube.shape()), device_curve));
    const auto by_cpu = yl::draw_cube_scene(scene, unit);
    auto by_gl = gpu.draw(scene, cube, yl::Sampler{});
    if (!by_cpu || !by_gl)
        return tl::unexpected(by_cpu ? by_gl.error() : by_cpu.error());
    YL_TRY(const auto difference, yl::compare_pictures(by_cpu->view(), by_gl->view(), 2));
    report.check(difference.share_within() >= min_share);
    const std::string note =
        fmt::format("CPU sampler within 2 codes at {:.3f} %", 100 * difference.share_within());
    report.say(fmt::format("  {:<22} {:<44} {}", "dawn.png", title, note));
    return yl::LabelledPicture{std::move(*by_gl), title, note};
}

}  // namespace

yl::Status show_dawn(const std::string& folder, Driver& gpu, const DemoReport& report) {
    report.say(
        "\nSix faces of a sky with scrambled names and turns, put in order by their edges:\n");
    const auto scrambled = cube_of_scrambled(folder, report);
    const auto cube = cube_of_panorama(folder, {});
    const auto specular = cube_of_panorama(
        folder,
        {.prefilter = yl::CubePrefilter::specular, .specular = {.face_size = 128, .samples = 256}});
    const auto harmonics = cube ? yl::project_to_harmonics(*cube) : tl::unexpected(cube.error());
    for (const auto* made : {&scrambled, &cube, &specular})
        if (!*made)
            return tl::unexpected(made->error());
    if (!harmonics)
        return tl::unexpected(harmonics.error());
    YL_TRY(const auto file, yl::read_texture(folder + "/dawn.ktx2"));
    const auto identical = returns_identical(gpu, file.texture);
    if (!identical)
        return tl::unexpected(identical.error());
    report.check(*identical && std::ranges::equal(file.texture.level(0), scrambled->level(0)));
    report.say(fmt::format("  dawn.ktx2: faces of {}, {} levels, read back {}\n",
                           scrambled->shape().width, scrambled->shape().levels,
                           *identical ? "identical" : "DIFFERENT"));

    const yl::SkyOptions camera = {.width = 480, .height = 320, .yaw = 170, .field_of_view = 70};
    yl::SkyOptions ahead = camera;
    ahead.yaw = -20;
    ahead.pitch = 10;
    yl::CubeScene rough = yl::ball_scene(camera), matt = yl::ball_scene(camera);
    rough.sky_level = 0;
    rough.ball_level = yl::level_of_roughness(*specular, 0.45F);
    matt.matt_ball = *harmonics;
    struct View {
        const yl::CubeScene& scene;
        const yl::Texture& cube;
        const char* title;
        double min_share;  ///< at a mirror's rim a pixel sees half a sky
    };
    const yl::CubeScene sky = yl::sky_scene(ahead), mirror = yl::ball_scene(camera);
    std::vector<yl::LabelledPicture> panels;
    for (const View& view : {View{sky, *cube, "the sky, 70 degrees high", 0.995},
                             {mirror, *cube, "a ball that mirrors it", 0.98},
                             {rough, *specular, "a ball of roughness 0.45", 0.995},
                             {matt, *cube, "a matt white ball", 0.995}}) {
        YL_TRY(auto panel, drawn(view.scene, view.cube, view.title, view.min_share, gpu, report));
        panels.push_back(std::move(panel));
    }
    YL_TRY(const auto picture, yl::arrange_panels(panels, 2, "Dawn over the Glasshouse"));
    return yl::write_picture(folder + "/dawn.png", picture.view());
}

}  // namespace ylat
