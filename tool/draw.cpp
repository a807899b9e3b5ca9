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
#include "outputs.hpp"
#include "surface_choice.hpp"

namespace ylat {
namespace {

/// A texture of the command line, with the roughness map that goes with it.
struct Subject {
    std::string path = {};
    yl::Texture texture = {};
    std::optional<yl::Texture> roughness = {};
    std::optional<yl::PartCoordinates> part = {};
    std::array<std::uint32_t, 2> size = {};  ///< of what is shown, in texels

    [[nodiscard]] std::string file_name() const {
        return std::filesystem::path(path).filename().string();
    }
};

constexpr std::uint32_t pictures_in_row = 3;

/// The scenes, and what else options go by.
enum DrawFact : Facts {
    floor_scene = 1,
    panel_scene = 2,
    sky_scene = 4,
    ball_scene = 8,
    model_scene = 16,
    on_named_device = 32,
    side_by_side = 64,
    is_lit = 128,
    is_unlit = 256,
    shows_part = 512,
    shows_whole = 1024,
};

constexpr std::pair<const char*, Facts> scenes[] = {{"floor", floor_scene},
                                                    {"panel", panel_scene},
                                                    {"sky", sky_scene},
                                                    {"ball", ball_scene},
                                                    {"model", model_scene}};
constexpr Facts surfaces = floor_scene | panel_scene;
constexpr Facts textures = surfaces | sky_scene | ball_scene;

struct Draw {
    Session& session;
    Command command;
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
    SurfaceChoices surface = {};

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

    yl::Result<yl::Scene> scene(const Subject& subject) const {
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
                static_cast<float>(subject.size[0]) / static_cast<float>(subject.size[1]);
            result = yl::panel_scene(options);
        }
        result.cutout_threshold = cutout;
        result.part = subject.part;
        if (result.part && (scene_name == "floor" || tiles[0] > 1 || tiles[1] > 1))
            result.part->repeats = true;
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
            if (!surface.is_any())
                note_first_surface(session, texture->shape(), texture_paths[i]);
            YL_TRY(auto chosen_surface,
                   choose_surface(std::move(*texture), texture_paths[i], surface));
            Subject subject{.path = texture_paths[i],
                            .texture = std::move(chosen_surface.texture),
                            .part = chosen_surface.part,
                            .size = chosen_surface.size};
            if (!roughness_paths.empty()) {
                YL_TRY(auto map,
                       open_texture(session, roughness_paths[i], {.role = yl::Role::data}));
                subject.roughness = std::move(map);
            }
            subjects.push_back(std::move(subject));
        }
        return subjects;
    }

    [[nodiscard]] Facts facts() const {
        Facts shown = 0;
        for (const auto& [name, scene] : scenes)
            shown |= when(scene_name == name, scene);
        const bool several = samplers.size() > 1 || texture_paths.size() > 1;
        return shown | when(api == "vulkan" || api == "d3d12", on_named_device) |
               when(several, side_by_side) | when(!lamp.empty() || scene_name == "ball", is_lit) |
               when(lamp.empty(), is_unlit) | when(!surface.part.empty(), shows_part) |
               when(surface.part.empty(), shows_whole);
    }

    yl::Result<Exit> run() const {
        YL_CHECK(command.refuse_options(facts()));
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
            YL_CHECK(note_opaque(subject));
        for (const Subject& subject : subjects)
            YL_CHECK(draw_subject(subject, range, driver.get(), pictures));
        YL_CHECK(write(std::move(pictures), driver ? driver->profile().name : "CPU sampler"));
        return session.outcome();
    }

    /// --cutout and --alpha mean nothing where alpha is 1 everywhere.
    yl::Status note_opaque(const Subject& subject) const {
        const bool is_cut = cutout.has_value();
        if ((!is_cut && inputs.alpha.empty()) || shows_cube() || !lamp.empty())
            return {};
        YL_TRY(const auto texels, yl::decode_texture(subject.texture));
        const auto use = yl::analyse_channels(texels.image(0), texels.metadata.swizzle);
        const auto kind = file_kind(subject.path);
        const bool is_noted = kind && *kind == FileKind::picture;  // --alpha, when it was baked
        for (const auto& [option, is_given] :
             {std::pair{"--cutout", is_cut}, {"--alpha", !inputs.alpha.empty() && !is_noted}})
            if (use.is_opaque && is_given)
                session.note({{"option-without-effect",
                               fmt::format("{} changes nothing: alpha is 1 everywhere", option),
                               "leave it out"}},
                             subject.path);
        return {};
    }

    /// One picture for each sampler.
    yl::Status draw_subject(const Subject& subject, std::optional<yl::LevelRange> range,
                            Driver* driver, std::vector<yl::LabelledPicture>& pictures) const {
        YL_TRY(const auto chosen, parsed_samplers(subject.texture));
        YL_TRY(const auto drawn_scene, scene(subject));
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

/// Options that go with some scenes alone, under a heading that names those.
OptionTable for_scenes(Facts which, std::vector<OptionRow> rows) {
    std::vector<std::string> names;
    for (const auto& [name, scene] : scenes)
        if ((which & scene) != 0)
            names.emplace_back(name);
    const std::string text =
        fmt::format("{} {}", names.size() > 1 ? "scenes" : "scene", fmt::join(names, ", "));
    return {"S" + text.substr(1),
            std::move(rows),
            {refused_without(which, "it goes with the " + text + ", and means nothing here")}};
}

OptionTable common_options(Draw& draw) {
    return {
        .rows = {{"--sampler", &draw.samplers, "SAMPLER",
                  "How to sample, such as \"mag=linear min=linear mip=linear wrap=repeat "
                  "aniso=8\"; repeat it to compare samplers side by side. model: overrides the "
                  "model's own samplers"},
                 {"--api",
                  &draw.api,
                  "cpu|gl|gles|vulkan|d3d12",
                  "Who draws: cpu, or a real OpenGL, OpenGL ES, Vulkan or Direct3D 12 driver",
                  {.allowed = one_of({"cpu", "gl", "gles", "vulkan", "d3d12"})}},
                 {"--device",
                  &draw.device,
                  "NAME",
                  "vulkan, d3d12: part of the device's name",
                  {.rules = {refused_without(
                       on_named_device, "devices have names with --api vulkan and --api d3d12")}}},
                 {"--size", &draw.size, "WxH", "Size of each picture in pixels"}}};
}

std::vector<OptionRow> lamp_options(Draw& draw) {
    return {
        {"--lamp",
         &draw.lamp,
         "U,V,AWAY",
         "Light the texture as a normal map from this direction: along u, against v, and away "
         "from the surface",
         {.numbers = 3}},
        {"--roughness-map",
         &draw.roughness_paths,
         "TEXTURE",
         "The roughness of the lit surface, in the first channel; one for each texture",
         {.rules = {refused_without(is_lit, "roughness shows under a lamp only: add --lamp")}}}};
}

std::vector<OptionTable> texture_options(Draw& draw) {
    std::vector<OptionRow> inputs = input_options(draw.inputs).rows;
    inputs.push_back(
        {"--columns",
         &draw.columns,
         "N",
         "Pictures in a row (3 when left out)",
         {.allowed = in_range(1, 16),
          .rules = {refused_without(
              side_by_side, "there is one picture alone: give several textures or samplers")}}});
    return {
        for_scenes(textures, std::move(inputs)),
        for_scenes(textures,
                   {{"--layer",
                     &draw.surface.layer,
                     "N",
                     "Draw this layer of an array (0)",
                     {.rules = {refused_without(shows_whole, "a part says its layer itself")}}}}),
        for_scenes(surfaces, {{"--slice",
                               &draw.surface.slice,
                               "N",
                               "Draw this slice of a 3D texture (0)",
                               {.rules = {refused_without(shows_whole, "an atlas has no slices")}}},
                              {"--part", &draw.surface.part, "NAME", "Draw this part of an atlas"},
                              {"--table",
                               &draw.surface.table,
                               "FILE",
                               "The atlas's table (the texture's name with .json when left out)",
                               {.rules = {refused_without(shows_part, "it goes with --part")}}}}),
        for_scenes(
            surfaces,
            {{"--declare-levels", &draw.declared_levels, "BASE..MAX",
              "The level range that the program declares (OpenGL's default is 0..1000); where "
              "levels are missing, the surface is black"},
             {"--cutout",
              &draw.cutout,
              "0..1",
              "Discard what has an alpha below this threshold; draw the rest opaque",
              {.allowed = in_range(0, 1),
               .rules = {refused_without(is_unlit,
                                         "what is lit has no holes: leave out --lamp")}}}}),
        for_scenes(surfaces, lamp_options(draw)),
        for_scenes(surfaces | ball_scene,
                   {{"--roughness",
                     &draw.roughness,
                     "0..1",
                     "The roughness of the lit surface or of the ball",
                     {.allowed = in_range(0, 1),
                      .rules = {refused_without(
                          is_lit, "roughness shows under a lamp only: add --lamp")}}}})};
}

std::vector<OptionTable> view_options(Draw& draw) {
    const AllowedValues tilted = in_range(-89, 89), turned = in_range(-360, 360);
    return {
        for_scenes(panel_scene, {{"--tiles",
                                  &draw.tiles,
                                  "ACROSS,DOWN",
                                  "panel: repeats across and down",
                                  {.numbers = 2}},
                                 {"--turn",
                                  &draw.panel.turn,
                                  "DEGREES",
                                  "panel: rotation about the vertical axis",
                                  {.allowed = tilted}},
                                 {"--tilt",
                                  &draw.panel.tilt,
                                  "DEGREES",
                                  "panel: rotation about the horizontal axis",
                                  {.allowed = tilted}}}),
        for_scenes(floor_scene, {{"--repeats",
                                  &draw.floor.repeats,
                                  "N",
                                  "floor: how often the texture repeats over the height of the eye",
                                  {.allowed = in_range(0.001, 1000)}}}),
        for_scenes(floor_scene | sky_scene | ball_scene | model_scene,
                   {{"--pitch",
                     &draw.pitch,
                     "DEGREES",
                     "floor: how far the camera looks down (13 when left out); sky, ball: up; "
                     "model: from above (20)",
                     {.allowed = in_range(-90, 90)}}}),
        for_scenes(sky_scene | ball_scene | model_scene,
                   {{"--yaw",
                     &draw.yaw,
                     "DEGREES",
                     "sky, ball, model: how far to the right of the front (model: 30)",
                     {.allowed = turned}}}),
        for_scenes(sky_scene, {{"--fov",
                                &draw.cube.sky.field_of_view,
                                "DEGREES",
                                "sky: vertical field of view",
                                {.allowed = in_range(1, 170)}}}),
        for_scenes(sky_scene | ball_scene, {{"--stops",
                                             &draw.cube.sky.stops,
                                             "STOPS",
                                             "sky, ball: exposure; each stop doubles the light",
                                             {.allowed = in_range(-30, 30)}}}),
        for_scenes(ball_scene, {{"--matt", &draw.cube.matt, "",
                                 "ball: matt and white, lit by the whole sky"}})};
}

OptionTable model_options(Draw& draw) {
    return for_scenes(
        model_scene,
        {{"--show",
          &draw.model.show,
          "WHAT",
          "model: lit, uv (coordinates), normal, slot (materials) or level (mip levels)",
          {.allowed = one_of({"lit", "uv", "normal", "slot", "level"})}},
         {"--zoom",
          &draw.model.view.zoom,
          "FACTOR",
          "model: above 1 enlarges",
          {.allowed = in_range(0.01, 100)}},
         {"--allow-outside", &draw.model.allow_outside, "",
          "model: also read images outside of the model's folder"}});
}

}  // namespace

void add_draw(CLI::App& app, Session& session) {
    auto draw = std::make_shared<Draw>(Draw{
        session, Command(app, session, "draw", "Draw a surface with a texture and its sampler")});
    Command& command = draw->command;
    command.runs([draw] { return draw->run(); });
    command.add({.rows = {{"SCENE",
                           &draw->scene_name,
                           "",
                           "floor (runs to the horizon), panel (a rectangle), sky (what a camera "
                           "sees of a cube map), ball (reflects one) or model",
                           {.allowed = one_of({"floor", "panel", "sky", "ball", "model"}),
                            .required = true}},
                          {"TEXTURE",
                           &draw->texture_paths,
                           "",
                           "Texture files; picture files are baked on the spot. Several are drawn "
                           "side by side. model: a model file",
                           {.required = true, .reads_pipes = true}}}});
    command.add_output(draw->output, "PNG", "The picture file to write (.png)");
    command.add(common_options(*draw));
    for (const auto& tables : {texture_options(*draw), view_options(*draw)})
        for (const OptionTable& table : tables)
            command.add(table);
    command.add(model_options(*draw));
}

}  // namespace ylat
