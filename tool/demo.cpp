// ylat demo: the whole road on the Glasshouse's pictures.
#include <fmt/format.h>
#include <yl/gl_scene.hpp>

#include <algorithm>
#include <chrono>
#include <functional>
#include <map>
#include <memory>

#include <yl/status_macros.hpp>

#include "batch_kinds.hpp"
#include "dawn.hpp"
#include "demo_blocks.hpp"
#include "demo_dawn.hpp"
#include "demo_devices.hpp"
#include "demo_layouts.hpp"
#include "demo_models.hpp"
#include "describe.hpp"
#include "driver.hpp"
#include "glasshouse.hpp"
#include "planter.hpp"
#include "session.hpp"

namespace ylat {
namespace {

constexpr const char* sampler_ladder[] = {
    "mag=nearest min=nearest mip=none",
    "mag=linear min=linear mip=nearest",
    "mag=linear min=linear mip=linear",
    "mag=linear min=linear mip=linear aniso=8",
};

/// Counts of what was held against something else.
struct Tally {
    int checks = 0;
    int failed = 0;

    void add(bool holds) {
        ++checks;
        if (!holds)
            ++failed;
    }
};

struct Demo {
    Session& session;
    std::string folder = "demo-out";

    [[nodiscard]] std::string path(const std::string& name) const { return folder + "/" + name; }

    yl::Result<Exit> run() const {
        const auto start = std::chrono::steady_clock::now();
        std::error_code error;
        std::filesystem::create_directories(folder, error);
        if (error)
            return yl::fail_at({yl::ErrorKind::io, "cannot make the folder: " + error.message()},
                               folder);
        YL_TRY(const auto pictures, glasshouse::make_pictures());
        YL_CHECK(write_sources(pictures));
        YL_CHECK(build_list());
        Tally tally;
        YL_CHECK(write_report(tally));
        YL_TRY(const auto gpu, open_driver("gl"));

        YL_TRY(auto textures, bake_all(pictures, *gpu, tally));
        YL_CHECK(draw_all(textures, *gpu, tally));
        YL_CHECK(show_chains());
        YL_CHECK(show_dawn(folder, *gpu,
                           {[&](const std::string& line) { session.say(line); },
                            [&](bool holds) { tally.add(holds); }}));
        YL_CHECK(show_blocks(folder, *gpu,
                             {[&](const std::string& line) { session.say(line); },
                              [&](bool holds) { tally.add(holds); }}));
        YL_CHECK(show_layouts(folder, *gpu,
                              {[&](const std::string& line) { session.say(line); },
                               [&](bool holds) { tally.add(holds); }}));
        YL_CHECK(show_planter(folder, *gpu,
                              {[&](const std::string& line) { session.say(line); },
                               [&](bool holds) { tally.add(holds); }}));
        YL_CHECK(show_devices(textures, {[&](const std::string& line) { session.say(line); },
                                         [&](bool holds) { tally.add(holds); }}));
        const double seconds =
            std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        session.say(fmt::format("\n{} checks, {} failed, {:.1f} s; the pictures are in {}",
                                tally.checks, tally.failed, seconds, folder));
        session.give([&] {
            return Json({{"folder", folder},
                         {"device", gpu->profile().name},
                         {"checks", tally.checks},
                         {"failed", tally.failed}});
        });
        return tally.failed == 0 ? Exit::done : Exit::findings;
    }

    yl::Status write_sources(const std::vector<glasshouse::DemoPicture>& pictures) const {
        YL_CHECK(glasshouse::write_pictures(pictures, folder));
        YL_CHECK(glasshouse::write_dawn(folder));
        YL_CHECK(glasshouse::write_planter(folder));
        YL_CHECK(write_evening(folder));
        return yl::write_whole_file(path("glasshouse.toml"),
                                    std::as_bytes(std::span(glasshouse::batch_list())));
    }

    /// All textures but those that show one thing alone.
    yl::Status build_list() const {
        YL_TRY(const Json end, run_inside({"batch", path("glasshouse.toml")}));
        session.say(fmt::format("{}: {} textures, {} built, {} from the cache, {} up to date\n",
                                path("glasshouse.toml"), end.value("textures", 0),
                                end.value("built", 0), end.value("from_cache", 0),
                                end.value("up_to_date", 0)));
        for (const Json& error : end.value("errors", Json::array()))
            return yl::fail_at({yl::ErrorKind::io, error["error"].value("sentence", "")},
                               path(error.value("output", "")));
        return {};
    }

    /// The page of all of them, with what is found about them.
    yl::Status write_report(Tally& tally) const {
        YL_TRY(const Json page,
               run_inside({"report", path("glasshouse.toml"), "-o", path("report.html")}));
        std::map<std::string, std::size_t> counts;  // by level
        const Json textures = page.value("textures", Json::array());
        bool are_sound = !textures.empty();
        for (const Json& texture : textures)
            for (const Json& finding : texture.value("findings", Json::array())) {
                const std::string level = finding.value("level", "");
                ++counts[level];
                // The model lacks an image and has a sampler without levels, on purpose.
                are_sound = are_sound && (level == "hint" || !texture.contains("build"));
            }
        tally.add(are_sound);
        session.say(fmt::format("{}: all of them in one page for the browser; {}, {}, {}\n",
                                path("report.html"), count_text(counts["error"], "error"),
                                count_text(counts["warning"], "warning"),
                                count_text(counts["hint"], "hint")));
        return {};
    }

    yl::Result<std::map<std::string, yl::Texture>> bake_all(
        const std::vector<glasshouse::DemoPicture>& pictures, Driver& gpu, Tally& tally) const {
        std::map<std::string, yl::Texture> textures;
        session.say(fmt::format("Built in {}, uploaded to {} and read back:\n", folder,
                                gpu.profile().name));
        session.say(fmt::format("  {:<20} {:>9}  {:<12} {:>6}  {:>10}  {:<10} {}", "texture",
                                "texels", "format", "levels", "bytes", "read back", "what it is"));
        for (const glasshouse::DemoPicture& picture : pictures) {
            YL_TRY(auto file, yl::read_texture(path(picture.name + ".ktx2")));
            YL_TRY(const auto identical, returns_identical(gpu, file.texture));
            tally.add(identical);
            const yl::TextureShape& shape = file.texture.shape();
            session.say(fmt::format("  {:<20} {:>9}  {:<12} {:>6}  {:>10}  {:<10} {}",
                                    picture.name + ".ktx2", size_text(shape.width, shape.height),
                                    yl::info(shape.format).name, shape.levels,
                                    byte_text(file.info.file_bytes),
                                    identical ? "identical" : "DIFFERENT", picture.about));
            textures.emplace(picture.name, std::move(file.texture));
        }
        return textures;
    }

    /// One scene with several samplers, drawn by the CPU and by the driver; the latter is written.
    yl::Status draw_row(const std::string& name, const std::string& heading, const yl::Scene& scene,
                        const yl::Texture& texture, const std::vector<std::string>& samplers,
                        std::uint32_t columns, Driver& gpu, Tally& tally) const {
        std::vector<yl::LabelledPicture> panels;
        for (const std::string& text : samplers) {
            YL_TRY(const auto sampler, yl::parse_sampler(text));
            YL_TRY(const auto unit,
                   yl::TextureSampler::create(texture, sampler, yl::LevelRange::of(texture.shape()),
                                              device_curve));
            YL_TRY(const auto by_cpu, yl::draw_scene(scene, unit));
            YL_TRY(auto by_gl, gpu.draw(scene, texture, sampler, {}));
            YL_TRY(const auto difference, yl::compare_pictures(by_cpu.view(), by_gl.view(), 2));
            std::string note = fmt::format("CPU sampler within 2 codes at {:.3f} %",
                                           100 * difference.share_within());
            if (sampler.max_anisotropy > 1)
                note += " (drivers choose their own samples)";
            else
                tally.add(difference.share_within() >= 0.999);
            panels.push_back({std::move(by_gl), text, note});
            session.say(fmt::format("  {:<22} {:<44} {}", name, text, note));
        }
        YL_TRY(const auto picture, yl::arrange_panels(panels, columns, heading));
        return yl::write_picture(path(name), picture.view());
    }

    /// A texture of the demo, baked in another way.
    [[nodiscard]] yl::Result<yl::Texture> rebaked(const std::string& name,
                                                  const yl::BakeOptions& options) const {
        YL_TRY(auto baked, yl::bake_file(path(name + ".png"), options));
        return std::move(baked.texture);
    }

    /// What chains that know their texture's role are good for.
    yl::Status show_chains() const {
        session.say("\nChains, drawn by the CPU:\n");
        yl::BakeOptions covered;
        covered.coverage = 0.75F;
        const auto plain_lattice = rebaked("lattice", {});
        const auto lattice = rebaked("lattice", covered);
        const auto plain_pond =
            rebaked("pond_normal", {.role = yl::Role::normal, .plain_chain = true});
        const auto pond = rebaked("pond_normal", {.role = yl::Role::normal});
        for (const auto* texture : {&plain_lattice, &lattice, &plain_pond, &pond})
            if (!*texture)
                return tl::unexpected(texture->error());
        yl::Scene trellis =
            yl::floor_scene({.width = 620, .height = 330, .repeats = 2.5F, .pitch = 9});
        trellis.cutout_threshold = covered.coverage;
        if (auto done = show_pair(
                "coverage.png", "Cut-out alpha, tested against 0.75",
                [&](const yl::TextureSampler& unit) { return yl::draw_scene(trellis, unit); },
                {{"plain chain", &*plain_lattice}, {"coverage kept", &*lattice}});
            !done)
            return done;
        YL_TRY(auto rough, wide_roughness(pond->shape()));
        YL_TRY(const auto map,
               yl::TextureSampler::create(rough, {}, yl::LevelRange::of(rough.shape())));
        const yl::Scene water = yl::floor_scene({.width = 620, .height = 400, .pitch = 16});
        return show_pair(
            "pond.png", "A pond under one lamp",
            [&](const yl::TextureSampler& unit) {
                yl::Lamp lamp{.towards = {0, 0.9F, 0.42F}, .roughness = pond_roughness};
                if (&unit.texture() == &*pond)
                    lamp.roughness_map = &map;
                return yl::draw_lit_scene(water, unit, lamp);
            },
            {{"plain chain of normals", &*plain_pond},
             {"unit normals, roughness widened", &*pond}});
    }

    static constexpr float pond_roughness = 0.12F;

    /// The pond's roughness, which makes up for the ripples that each level hides.
    [[nodiscard]] yl::Result<yl::Texture> wide_roughness(yl::TextureShape shape) const {
        shape.format = yl::Format::r8_unorm;
        auto roughness = yl::Texture::create(shape);
        const auto normals = yl::read_picture(path("pond_normal.png"), {.role = yl::Role::normal});
        if (!roughness)
            return roughness;
        if (!normals)
            return tl::unexpected(normals.error());
        for (std::uint32_t level = 0; level < shape.levels; ++level)
            std::ranges::fill(roughness->level(level),
                              static_cast<std::byte>(pond_roughness * 255));
        YL_CHECK(yl::widen_roughness(*roughness, normals->image.view()));
        return roughness;
    }

    using Drawing = std::function<yl::Result<yl::Image>(const yl::TextureSampler&)>;

    yl::Status show_pair(
        const std::string& name, const std::string& heading, const Drawing& drawing,
        const std::vector<std::pair<std::string, const yl::Texture*>>& subjects) const {
        std::vector<yl::LabelledPicture> panels;
        for (const auto& [title, texture] : subjects) {
            YL_TRY(const auto unit,
                   yl::TextureSampler::create(*texture, {}, yl::LevelRange::of(texture->shape()),
                                              device_curve));
            YL_TRY(auto picture, drawing(unit));
            panels.push_back({std::move(picture), title, ""});
        }
        YL_TRY(const auto arranged, yl::arrange_panels(panels, 2, heading));
        session.say(fmt::format("  {:<22} {}", name, heading));
        return yl::write_picture(path(name), arranged.view());
    }

    yl::Status draw_all(const std::map<std::string, yl::Texture>& textures, Driver& gpu,
                        Tally& tally) const {
        session.say("\nDrawn by the driver, and held against the CPU sampler:\n");
        const yl::Scene floor = yl::floor_scene({.width = 620, .height = 340});
        if (auto done = draw_row(
                "floor.png", "One floor of slate, four samplers", floor, textures.at("slate"),
                {std::begin(sampler_ladder), std::end(sampler_ladder)}, 2, gpu, tally);
            !done)
            return done;
        const yl::Texture& label = textures.at("label");
        const float label_aspect =
            static_cast<float>(label.shape().width) / static_cast<float>(label.shape().height);
        const yl::Scene signs = yl::panel_scene({.width = 410,
                                                 .height = 320,
                                                 .tiles = {2.5F, 2.5F},
                                                 .turn = 18,
                                                 .texture_aspect = label_aspect});
        if (auto done = draw_row(
                "wraps.png", "A label beyond its edges, six wraps", signs, label,
                {"mag=nearest min=nearest mip=none wrap=repeat",
                 "mag=nearest min=nearest mip=none wrap=mirror",
                 "mag=nearest min=nearest mip=none wrap=clamp-to-edge",
                 "mag=nearest min=nearest mip=none wrap=clamp-to-border border=0.6,0.1,0.1,1",
                 "mag=nearest min=nearest mip=none wrap=repeat,clamp-to-edge",
                 "mag=nearest min=nearest mip=none wrap=mirror-once"},
                3, gpu, tally);
            !done)
            return done;
        const yl::Scene trellis =
            yl::panel_scene({.width = 620, .height = 380, .tiles = {3, 1}, .turn = 58});
        return draw_row("trellis.png", "A trellis seen at an angle", trellis,
                        textures.at("lattice"), {sampler_ladder[0], sampler_ladder[2]}, 2, gpu,
                        tally);
    }
};

}  // namespace

void add_demo(CLI::App& app, Session& session) {
    auto demo = std::make_shared<Demo>(Demo{session});
    Command command(app, session, "demo", "Do all of it on the demo data, and check it");
    command.runs([demo] { return demo->run(); });
    command.add({.rows = {{"-o", &demo->folder, "DIR", "The folder to fill"}}});
}

}  // namespace ylat
