// ylat draw: what a surface with a texture and its sampler looks like.
#include <fmt/format.h>
#include <yl/gl_headless.hpp>
#include <yl/gl_scene.hpp>

#include <memory>

#include "arguments.hpp"
#include "describe.hpp"
#include "session.hpp"

namespace ylat {
namespace {

struct Draw {
    Session& session;
    std::string scene_name = {};
    std::string texture_path = {};
    std::string output = {};
    std::vector<std::string> samplers = {};
    std::string api = "cpu";
    std::string size = "640x400";
    std::string declared_levels = {};
    std::vector<float> tiles = {1, 1};
    yl::PanelOptions panel = {};
    yl::FloorOptions floor = {};
    std::optional<float> cutout = {};
    std::uint32_t columns = 0;

    yl::Result<yl::Scene> scene(const yl::TextureShape& shape) const {
        const auto pixels = parse_size(size);
        if (!pixels)
            return tl::unexpected(pixels.error());
        yl::Scene result;
        if (scene_name == "floor") {
            yl::FloorOptions options = floor;
            std::tie(options.width, options.height) = std::tie((*pixels)[0], (*pixels)[1]);
            result = yl::floor_scene(options);
        } else {
            yl::PanelOptions options = panel;
            std::tie(options.width, options.height) = std::tie((*pixels)[0], (*pixels)[1]);
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
            const auto sampler = yl::parse_sampler(text);
            if (!sampler)
                return tl::unexpected(sampler.error());
            result.push_back(*sampler);
        }
        if (result.empty())
            result.push_back(texture.traits.sampler.value_or(yl::Sampler{}));
        return result;
    }

    static yl::Result<yl::Image> draw_on_cpu(const yl::Scene& scene, const yl::Texture& texture,
                                             const yl::Sampler& sampler, yl::LevelRange range) {
        const auto unit = yl::TextureSampler::create(texture, sampler, range, device_curve);
        if (!unit)
            return tl::unexpected(unit.error());
        return yl::draw_scene(scene, *unit);
    }

    static yl::Result<yl::Image> draw_on_gl(const yl::gl::Device& device, const yl::Scene& scene,
                                            const yl::Texture& texture, const yl::Sampler& sampler,
                                            std::optional<yl::LevelRange> range) {
        const auto uploaded =
            device.upload(texture, {.sampler = sampler, .declared_levels = range});
        if (!uploaded)
            return tl::unexpected(uploaded.error());
        return yl::gl::draw_scene(device, scene, *uploaded, texture.traits.alpha);
    }

    yl::Result<Exit> run() const {
        std::optional<yl::LevelRange> range;
        if (!declared_levels.empty()) {
            const auto parsed = parse_level_range(declared_levels);
            if (!parsed)
                return tl::unexpected(parsed.error());
            range = *parsed;
        }
        const auto texture = load_texture(texture_path);
        if (!texture)
            return tl::unexpected(texture.error());
        const auto chosen = parsed_samplers(*texture);
        if (!chosen)
            return tl::unexpected(chosen.error());
        const auto drawn_scene = scene(texture->shape());
        if (!drawn_scene)
            return tl::unexpected(drawn_scene.error());

        std::optional<yl::gl::HeadlessContext> context;
        std::optional<yl::gl::Device> device;
        if (api == "gl") {
            auto opened = yl::gl::HeadlessContext::create();
            if (!opened)
                return tl::unexpected(opened.error());
            context.emplace(std::move(*opened));
            auto found = yl::gl::Device::open(context->loader());
            if (!found)
                return tl::unexpected(found.error());
            device.emplace(std::move(*found));
        }
        std::vector<yl::LabelledPicture> pictures;
        bool has_findings = false;
        for (const yl::Sampler& sampler : *chosen) {
            const yl::LevelRange effective = range.value_or(yl::LevelRange::of(texture->shape()));
            const yl::Findings findings = yl::check_sampler(texture->shape(), sampler, effective);
            session.warn(findings,
                         fmt::format("{} with {}", texture_path, yl::sampler_text(sampler)));
            has_findings = has_findings || !findings.empty();
            auto picture = device ? draw_on_gl(*device, *drawn_scene, *texture, sampler, range)
                                  : draw_on_cpu(*drawn_scene, *texture, sampler, effective);
            if (!picture)
                return tl::unexpected(picture.error());
            pictures.push_back({std::move(*picture), yl::sampler_text(sampler), ""});
        }
        const auto written =
            write(std::move(pictures), device ? device->profile().name : "CPU sampler");
        if (!written)
            return tl::unexpected(written.error());
        return has_findings ? Exit::findings : Exit::done;
    }

    yl::Status write(std::vector<yl::LabelledPicture> pictures, const std::string& drawn_by) const {
        const std::size_t count = pictures.size();
        yl::Image result;
        if (count == 1) {
            result = std::move(pictures[0].picture);
        } else {
            const std::string file = std::filesystem::path(texture_path).filename().string();
            auto arranged = yl::arrange_panels(
                pictures, columns != 0 ? columns : (count <= 4 ? 2 : 3),
                fmt::format("{} as a {}, drawn by {}", file, scene_name, drawn_by));
            if (!arranged)
                return tl::unexpected(arranged.error());
            result = std::move(*arranged);
        }
        auto written = yl::write_picture(output, result.view());
        if (!written)
            return written;
        session.say(fmt::format("{} -> {}", texture_path, output));
        session.say(row_text(
            "picture",
            fmt::format("{}, {} {}, drawn by {}", size_text(result.width(), result.height()), count,
                        count == 1 ? "panel" : "panels", drawn_by)));
        session.give({{"texture", texture_path},
                      {"output", output},
                      {"scene", scene_name},
                      {"width", result.width()},
                      {"height", result.height()},
                      {"panels", count},
                      {"drawn_by", drawn_by}});
        return {};
    }
};

}  // namespace

void add_draw(CLI::App& app, Session& session) {
    auto draw = std::make_shared<Draw>(Draw{session});
    CLI::App* command =
        add_command(app, session, "draw", "Draw a surface with a texture and its sampler",
                    [draw] { return draw->run(); });
    command
        ->add_option("SCENE", draw->scene_name,
                     "floor (runs to the horizon) or panel (a rectangle)")
        ->required()
        ->check(CLI::IsMember({"floor", "panel"}));
    command
        ->add_option("TEXTURE", draw->texture_path,
                     "A texture file; a picture file is baked on the spot")
        ->required();
    command->add_option("-o", draw->output, "The picture file to write (.png)")
        ->required()
        ->option_text("PNG");
    command
        ->add_option("--sampler", draw->samplers,
                     "How to sample, such as \"mag=linear min=linear mip=linear wrap=repeat "
                     "aniso=8\"; given several "
                     "times, the pictures stand side by side")
        ->option_text("SAMPLER")
        ->allow_extra_args(false);
    command->add_option("--api", draw->api, "Who draws: cpu, or gl (a real driver)")
        ->check(CLI::IsMember({"cpu", "gl"}));
    command->add_option("--size", draw->size, "Pixels of each picture")->option_text("WxH");
    command->add_option("--columns", draw->columns, "Pictures side by side in a row")
        ->check(CLI::Range(1, 16));
    command
        ->add_option("--declare-levels", draw->declared_levels,
                     "The levels that the program declares (OpenGL's own default is 0..1000); "
                     "where some are "
                     "missing, the surface is black")
        ->option_text("BASE..MAX");
    command
        ->add_option("--cutout", draw->cutout,
                     "Alpha from this threshold on is solid, below it nothing")
        ->check(CLI::Range(0.0, 1.0));
    command->add_option("--tiles", draw->tiles, "panel: repeats across and down")
        ->expected(2)
        ->delimiter(',');
    command->add_option("--turn", draw->panel.turn, "panel: degrees about the vertical axis")
        ->check(CLI::Range(-89, 89));
    command->add_option("--tilt", draw->panel.tilt, "panel: degrees about the horizontal axis")
        ->check(CLI::Range(-89, 89));
    command->add_option("--repeats", draw->floor.repeats, "floor: repeats in one eye's height")
        ->check(CLI::Range(0.001, 1000.0));
    command->add_option("--pitch", draw->floor.pitch, "floor: degrees that the camera looks down")
        ->check(CLI::Range(-80, 80));
}

}  // namespace ylat
