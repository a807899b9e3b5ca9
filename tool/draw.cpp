// ylat draw: what a surface with a texture and its sampler looks like.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <memory>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "describe.hpp"
#include "draw_cube.hpp"
#include "draw_model.hpp"
#include "driver.hpp"
#include "inputs.hpp"
#include "option_rules.hpp"
#include "outputs.hpp"
#include "scene_options.hpp"

namespace ylat {
namespace {

/// A texture of the command line, with the roughness map that goes with it.
struct Subject {
    std::string path = {};
    yl::Texture texture = {};
    std::optional<yl::Texture> roughness = {};

    [[nodiscard]] std::string file_name() const {
        return std::filesystem::path(path).filename().string();
    }
};

constexpr std::uint32_t pictures_in_row = 3;

enum DrawFact : Facts { on_vulkan = 1, side_by_side = 2, is_lit = 4, is_unlit = 8 };

constexpr OptionRule refused_by_draw[] = {
    {"--device", on_vulkan, "devices are named by Vulkan: add --api vulkan"},
    {"--columns", side_by_side, "there is one picture alone: give several textures or samplers"},
    {"--cutout", is_unlit, "what is lit has no holes: leave out --lamp"},
    {"--roughness", is_lit, "roughness shows under a lamp only: add --lamp"},
};

struct Draw {
    Session& session;
    std::string scene_name = {};
    std::vector<std::string> texture_paths = {};
    std::string output = {};
    InputChoices inputs = {};
    std::vector<std::string> samplers = {};
    std::string api = "cpu", device = {};
    std::string size = "640x400";
    std::string declared_levels = {};
    std::vector<float> tiles = {1, 1};
    yl::PanelOptions panel = {};
    yl::FloorOptions floor = {};
    std::optional<float> cutout = {};
    std::uint32_t columns = 0;
    std::vector<float> lamp = {};
    std::optional<float> roughness = {};
    std::vector<std::string> roughness_paths = {};
    std::optional<float> pitch = {}, yaw = {};
    CubeView cube = {};
    ModelChoices model = {};

    [[nodiscard]] bool shows_cube() const { return scene_name == "sky" || scene_name == "ball"; }

    yl::Result<CubeView> cube_view() const {
        YL_TRY(const auto pixels, parse_size(size));
        CubeView view = cube;
        view.is_ball = scene_name == "ball";
        view.roughness = roughness;
        view.sky.pitch = pitch.value_or(0);
        view.sky.yaw = yaw.value_or(0);
        std::tie(view.sky.width, view.sky.height) = std::tie(pixels[0], pixels[1]);
        return view;
    }

    yl::Result<Exit> run_model() const {
        if (texture_paths.size() != 1)
            return yl::fail_at({yl::ErrorKind::usage, "one model is drawn at a time"}, "TEXTURE");
        if (samplers.size() > 1)
            return yl::fail_at({yl::ErrorKind::usage, "a model is drawn with one at a time"},
                               "--sampler");
        ModelChoices choices = model;
        if (!samplers.empty())
            choices.sampler = samplers[0];
        choices.model = texture_paths[0];
        choices.output = output;
        choices.api = api;
        choices.device = device;
        choices.view.pitch = pitch.value_or(choices.view.pitch);
        choices.view.yaw = yaw.value_or(choices.view.yaw);
        YL_TRY(const auto pixels, parse_size(size));
        std::tie(choices.view.width, choices.view.height) = std::tie(pixels[0], pixels[1]);
        return draw_model(session, choices);
    }

    yl::Result<yl::Scene> scene(const yl::TextureShape& shape) const {
        YL_TRY(const auto pixels, parse_size(size));
        yl::Scene result;
        if (scene_name == "floor") {
            yl::FloorOptions options = floor;
            options.pitch = pitch.value_or(options.pitch);
            std::tie(options.width, options.height) = std::tie(pixels[0], pixels[1]);
            result = yl::floor_scene(options);
        } else {
            yl::PanelOptions options = panel;
            std::tie(options.width, options.height) = std::tie(pixels[0], pixels[1]);
            options.tiles = {tiles[0], tiles[1]};
            options.texture_aspect =
                static_cast<float>(shape.width) / static_cast<float>(shape.height);
            result = yl::panel_scene(options);
        }
        result.cutout_threshold = cutout;
        return result;
    }

    yl::Result<std::vector<yl::Sampler>> parsed_samplers(const yl::Texture& texture) const {
        std::vector<yl::Sampler> result;
        for (const std::string& text : samplers) {
            YL_TRY(const auto sampler, yl::parse_sampler(text));
            result.push_back(sampler);
        }
        if (result.empty())
            result.push_back(texture.metadata.sampler.value_or(yl::Sampler{}));
        return result;
    }

    static yl::Result<yl::Image> draw_on_cpu(const yl::Scene& scene, const yl::Texture& texture,
                                             const yl::Sampler& sampler, yl::LevelRange range) {
        YL_TRY(const auto unit, yl::TextureSampler::create(texture, sampler, range, device_curve));
        return yl::draw_scene(scene, unit);
    }

    yl::Result<yl::Image> draw_lit(const yl::Scene& scene, const Subject& subject,
                                   const yl::Sampler& sampler, yl::LevelRange range) const {
        YL_TRY(const auto normals,
               yl::TextureSampler::create(subject.texture, sampler, range, device_curve));
        yl::Lamp light{.towards = {lamp[0], lamp[1], lamp[2]},
                       .roughness = roughness.value_or(0.2F)};
        std::optional<yl::TextureSampler> map;
        if (subject.roughness) {
            YL_TRY(auto made, yl::TextureSampler::create(
                                  *subject.roughness, sampler,
                                  yl::LevelRange::of(subject.roughness->shape()), device_curve));
            map.emplace(std::move(made));
            light.roughness_map = &*map;
        }
        return yl::draw_lit_scene(scene, normals, light);
    }

    yl::Result<std::vector<Subject>> load_subjects() const {
        if (!roughness_paths.empty() && lamp.empty())
            return yl::fail_at(
                {yl::ErrorKind::usage, "roughness shows under a lamp only: add --lamp"},
                "--roughness-map");
        if (!roughness_paths.empty() && roughness_paths.size() != texture_paths.size())
            return yl::fail_at({yl::ErrorKind::usage, "as many are needed as there are textures"},
                               "--roughness-map");
        YL_TRY(auto chosen, parse_inputs(inputs));
        if (!chosen.role && !lamp.empty())
            chosen.role = yl::Role::normal;
        chosen.uses_role = !lamp.empty();
        chosen.uses_alpha = !shows_cube() && lamp.empty();
        std::vector<Subject> subjects;
        for (std::size_t i = 0; i < texture_paths.size(); ++i) {
            YL_TRY(auto opened, shows_cube() ? open_cube(session, texture_paths[i], chosen)
                                             : open_texture(session, texture_paths[i], chosen));
            auto texture = upright(std::move(opened));
            if (!texture)
                return yl::fail_at(texture.error(), texture_paths[i]);
            if (!shows_cube() && texture->shape().faces == 6)
                return yl::fail_at(
                    {yl::ErrorKind::usage, "this is a cube map; the scenes sky and ball show it"},
                    texture_paths[i]);
            Subject subject{.path = texture_paths[i], .texture = std::move(*texture)};
            if (!roughness_paths.empty()) {
                YL_TRY(auto map,
                       open_texture(session, roughness_paths[i], {.role = yl::Role::data}));
                subject.roughness = std::move(map);
            }
            subjects.push_back(std::move(subject));
        }
        return subjects;
    }

    yl::Result<Exit> run(const CLI::App& command) const {
        YL_CHECK(check_scene_options(command, scene_name));
        const bool several = samplers.size() > 1 || texture_paths.size() > 1;
        YL_CHECK(refuse_options(command, refused_by_draw,
                                when(api == "vulkan", on_vulkan) | when(several, side_by_side) |
                                    when(!lamp.empty() || scene_name == "ball", is_lit) |
                                    when(lamp.empty(), is_unlit)));
        if (scene_name == "model")
            return run_model();
        std::optional<yl::LevelRange> range;
        if (!declared_levels.empty()) {
            YL_TRY(const auto parsed, parse_level_range(declared_levels, "--declare-levels"));
            range = parsed;
        }
        YL_TRY(const auto subjects, load_subjects());
        std::unique_ptr<Driver> driver;
        if (api != "cpu") {
            if (!lamp.empty())
                return yl::fail_at(
                    {yl::ErrorKind::usage, "lit scenes are drawn by the CPU: leave out --lamp"},
                    "--api");
            YL_TRY(auto opened, open_driver(api, device));
            driver = std::move(opened);
        }
        std::vector<yl::LabelledPicture> pictures;
        for (const Subject& subject : subjects)
            YL_CHECK(draw_subject(subject, range, driver.get(), pictures));
        YL_CHECK(write(std::move(pictures), driver ? driver->profile().name : "CPU sampler"));
        return session.outcome();
    }

    /// One picture for each sampler.
    yl::Status draw_subject(const Subject& subject, std::optional<yl::LevelRange> range,
                            Driver* driver, std::vector<yl::LabelledPicture>& pictures) const {
        YL_TRY(const auto chosen, parsed_samplers(subject.texture));
        YL_TRY(const auto drawn_scene, scene(subject.texture.shape()));
        YL_TRY(const auto view, cube_view());
        for (const yl::Sampler& sampler : chosen) {
            const yl::TextureShape& shape = subject.texture.shape();
            const yl::LevelRange effective = range.value_or(yl::LevelRange::of(shape));
            const yl::Findings findings = yl::check_sampler(shape, sampler, effective);
            session.note(findings,
                         fmt::format("{} with {}", subject.path, yl::sampler_text(sampler)));
            YL_TRY(auto picture,
                   shows_cube()        ? draw_cube(view, subject.texture, sampler, driver)
                   : driver != nullptr ? driver->draw(drawn_scene, subject.texture, sampler, range)
                   : lamp.empty() ? draw_on_cpu(drawn_scene, subject.texture, sampler, effective)
                                  : draw_lit(drawn_scene, subject, sampler, effective));
            const bool several = texture_paths.size() > 1;
            pictures.push_back({std::move(picture),
                                several ? subject.file_name() : yl::sampler_text(sampler),
                                several ? yl::sampler_text(sampler) : ""});
        }
        return {};
    }

    yl::Status write(std::vector<yl::LabelledPicture> pictures, const std::string& drawn_by) const {
        const std::size_t count = pictures.size();
        yl::Image result;
        if (count == 1) {
            result = std::move(pictures[0].picture);
        } else {
            std::string file;
            for (const std::string& path : texture_paths)
                file +=
                    (file.empty() ? "" : ", ") + std::filesystem::path(path).filename().string();
            YL_TRY(auto arranged,
                   yl::arrange_panels(
                       pictures, columns != 0 ? columns : pictures_in_row,
                       fmt::format("{} as a {}, drawn by {}", file, scene_name, drawn_by)));
            result = std::move(arranged);
        }
        YL_CHECK(save(output, result.view()));
        session.say(fmt::format("{} -> {}", fmt::join(texture_paths, ", "), output));
        session.say(row_text(
            "picture",
            fmt::format("{}, {} {}, drawn by {}", size_text(result.width(), result.height()), count,
                        count == 1 ? "panel" : "panels", drawn_by)));
        session.give([&] {
            return Json({{"inputs", texture_paths},
                         {"output", output},
                         {"scene", scene_name},
                         {"width", result.width()},
                         {"height", result.height()},
                         {"panels", count},
                         {"drawn_by", drawn_by}});
        });
        return {};
    }
};

void add_picture_options(CLI::App& command, Draw& draw) {
    command
        .add_option("--sampler", draw.samplers,
                    "How to sample, such as \"mag=linear min=linear mip=linear wrap=repeat "
                    "aniso=8\"; given several "
                    "times, the pictures stand side by side. model: what is given takes the place "
                    "of the model's own")
        ->option_text("SAMPLER")
        ->allow_extra_args(false);
    command
        .add_option("--api", draw.api,
                    "Who draws: cpu, or a real driver of OpenGL, OpenGL ES or Vulkan")
        ->check(CLI::IsMember({"cpu", "gl", "gles", "vulkan"}))
        ->option_text("cpu|gl|gles|vulkan");
    command.add_option("--device", draw.device, "vulkan: a part of the device's name")
        ->option_text("NAME");
    add_input_options(command, draw.inputs);
    command.add_option("--size", draw.size, "Pixels of each picture")->option_text("WxH");
    command
        .add_option("--columns", draw.columns, "Pictures side by side in a row (3 when left out)")
        ->option_text("N")
        ->check(in_range(1, 16));
    command
        .add_option("--declare-levels", draw.declared_levels,
                    "The levels that the program declares (OpenGL's own default is 0..1000); "
                    "where some are "
                    "missing, the surface is black")
        ->option_text("BASE..MAX");
}

void add_surface_options(CLI::App& command, Draw& draw) {
    command
        .add_option("--cutout", draw.cutout,
                    "Alpha from this threshold on is solid, below it nothing")
        ->option_text("0..1")
        ->check(in_range(0.0, 1.0));
    command
        .add_option("--lamp", draw.lamp,
                    "The texture is a normal map, lit from there: along u, along the opposite of "
                    "v, and away from the surface")
        ->expected(3)
        ->delimiter(',')
        ->option_text("U,V,AWAY");
    command.add_option("--roughness", draw.roughness, "Of the lit surface, or of the ball")
        ->option_text("0..1")
        ->check(in_range(0.0, 1.0));
    command
        .add_option("--roughness-map", draw.roughness_paths,
                    "Of the lit surface, in the first channel; one for each texture")
        ->option_text("TEXTURE")
        ->allow_extra_args(false);
}

void add_view_options(CLI::App& command, Draw& draw) {
    command.add_option("--tiles", draw.tiles, "panel: repeats across and down")
        ->option_text("ACROSS,DOWN")
        ->expected(2)
        ->delimiter(',');
    command.add_option("--turn", draw.panel.turn, "panel: degrees about the vertical axis")
        ->option_text("DEGREES")
        ->check(in_range(-89, 89));
    command.add_option("--tilt", draw.panel.tilt, "panel: degrees about the horizontal axis")
        ->option_text("DEGREES")
        ->check(in_range(-89, 89));
    command.add_option("--repeats", draw.floor.repeats, "floor: repeats in one eye's height")
        ->option_text("N")
        ->check(in_range(0.001, 1000.0));
    command
        .add_option("--pitch", draw.pitch,
                    "floor: degrees that the camera looks down (13 when left out); sky, ball: up; "
                    "model: above (20)")
        ->option_text("DEGREES")
        ->check(in_range(-90, 90));
    command
        .add_option("--yaw", draw.yaw,
                    "sky, ball, model: degrees to the right of the front (model: 30)")
        ->option_text("DEGREES")
        ->check(in_range(-360, 360));
    command.add_option("--fov", draw.cube.sky.field_of_view, "sky: vertical, in degrees")
        ->option_text("DEGREES")
        ->check(in_range(1, 170));
    command
        .add_option("--stops", draw.cube.sky.stops,
                    "sky, ball: of exposure; each doubles the light")
        ->option_text("STOPS")
        ->check(in_range(-30, 30));
    command.add_flag("--matt", draw.cube.matt, "ball: matt and white, lit by all of the sky");
}

void add_model_options(CLI::App& command, Draw& draw) {
    command
        .add_option("--show", draw.model.show,
                    "model: lit, uv (coordinates), normal, slot (materials) or level (mip levels)")
        ->check(CLI::IsMember({"lit", "uv", "normal", "slot", "level"}))
        ->option_text("WHAT");
    command.add_option("--zoom", draw.model.view.zoom, "model: beyond 1, larger")
        ->option_text("FACTOR")
        ->check(in_range(0.01, 100.0));
    command.add_flag("--allow-outside", draw.model.allow_outside,
                     "model: read images outside of the model's folder");
}

}  // namespace

void add_draw(CLI::App& app, Session& session) {
    auto draw = std::make_shared<Draw>(Draw{session});
    CLI::App* command =
        add_command(app, session, "draw", "Draw a surface with a texture and its sampler",
                    [draw, &app] { return draw->run(*app.get_subcommand("draw")); });
    command
        ->add_option("SCENE", draw->scene_name,
                     "floor (runs to the horizon), panel (a rectangle), sky (what a camera sees of "
                     "a cube map), ball (that reflects one) or model")
        ->required()
        ->check(CLI::IsMember({"floor", "panel", "sky", "ball", "model"}));
    takes_pipes(command->add_option(
                    "TEXTURE", draw->texture_paths,
                    "Texture files; a picture file is baked on the spot. The pictures of several "
                    "stand side by side. model: a model file"),
                session)
        ->required();
    add_output_option(*command, session, draw->output, "The picture file to write (.png)")
        ->required()
        ->option_text("PNG");
    add_picture_options(*command, *draw);
    add_surface_options(*command, *draw);
    add_view_options(*command, *draw);
    add_model_options(*command, *draw);
    group_by_scene(*command);
}

}  // namespace ylat
