// ylat upload: a texture file to a real device and back.
#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "describe.hpp"
#include "driver.hpp"
#include "inputs.hpp"
#include "plan.hpp"

namespace ylat {
namespace {

enum UploadFact : Facts { on_named_device = 1, on_device = 2 };

struct Upload {
    Session& session;
    Command command;
    std::string texture_path = {};
    std::string api = "gl", device = {};
    std::string sampler = {};
    InputChoices inputs = {};
    PlanChoices plan = {};

    yl::Result<yl::UploadOptions> options() const {
        YL_TRY(yl::UploadOptions result, plan.options());
        result.label = std::filesystem::path(texture_path).filename().string();
        if (!sampler.empty()) {
            YL_TRY(const auto parsed, yl::parse_sampler(sampler));
            result.sampler = parsed;
        }
        YL_TRY(const auto chosen, parse_inputs(inputs));
        result.role = chosen.role;
        return result;
    }

    yl::Result<Exit> run() const {
        const bool is_real = plan.profile.empty();
        YL_CHECK(command.refuse_options(
            when(is_real, on_device) |
            when(is_real && (api == "vulkan" || api == "d3d12"), on_named_device) |
            when(plan.transcodes, asks_for_blocks)));
        YL_TRY(const auto chosen, options());
        if (!is_real)
            return show_plan(session, command, texture_path, plan.profile, chosen,
                             *parse_inputs(inputs));
        YL_TRY(const auto texture, open_texture(session, texture_path, *parse_inputs(inputs)));
        YL_TRY(const auto driver, open_driver(api, device));
        YL_TRY(const auto uploaded, yl::upload_texture(driver->device(), texture, chosen));
        YL_TRY(const auto back, uploaded.texture->read_back());

        yl::Texture expected;
        if (uploaded.plan.converts()) {
            YL_TRY(auto converted, yl::converted_for(uploaded.plan, texture));
            expected = std::move(converted);
        }
        const std::vector<bool> equal =
            compare(uploaded.plan, uploaded.plan.converts() ? expected : texture, back);
        yl::Findings changes;
        const yl::Sampler fitted = yl::fit_sampler(
            chosen.sampler.value_or(texture.metadata.sampler.value_or(yl::Sampler{})),
            driver->profile(), changes);
        report(driver->profile(), uploaded, fitted, equal);
        const bool all_equal = std::find(equal.begin(), equal.end(), false) == equal.end();
        return all_equal ? session.outcome() : Exit::findings;
    }

    /// Region by region, with all slices.
    static std::vector<bool> compare(const yl::UploadPlan& plan, const yl::Texture& sent,
                                     const yl::Texture& back) {
        std::vector<bool> equal;
        for (const yl::UploadRegion& region : plan.regions) {
            const auto a = sent.image(region.level, region.layer, region.face);
            const auto b = back.image(region.level, region.layer, region.face);
            const std::size_t bytes =
                plan.shape.surface_bytes(region.level) * plan.shape.depth_at(region.level);
            equal.push_back(std::equal(a.data, a.data + bytes, b.data));
        }
        return equal;
    }

    /// A line for each level, whose layers and faces follow each other.
    void say_levels(const yl::UploadPlan& made, const std::vector<bool>& equal) const {
        std::vector<std::vector<std::string>> table = {
            {"level", "texels", "parts", "offset", "row pitch", "bytes", "read back"}};
        for (std::size_t i = 0; i < made.regions.size();) {
            const yl::UploadRegion& first = made.regions[i];
            std::uint64_t bytes = 0;
            std::size_t parts = 0;
            bool same = true;
            for (; i < made.regions.size() && made.regions[i].level == first.level; ++i, ++parts) {
                bytes += made.regions[i].slice_pitch * made.regions[i].depth;
                same = same && equal[i];
            }
            table.push_back({std::to_string(first.level), side_text(made.shape, first.level),
                             std::to_string(parts), std::to_string(first.offset),
                             std::to_string(first.row_pitch), std::to_string(bytes),
                             same ? "identical" : "DIFFERENT"});
        }
        session.say(table_text(table));
    }

    void report(const yl::DeviceProfile& profile, const yl::UploadedTexture& uploaded,
                const yl::Sampler& fitted, const std::vector<bool>& equal) const {
        const yl::UploadPlan& made = uploaded.plan;
        yl::Findings findings = uploaded.findings;
        for (yl::Finding& finding : command.idle_options(facts_of(made)))
            findings.push_back(std::move(finding));
        const yl::LevelRange shown = uploaded.texture->level_range();
        session.say(fmt::format("{} -> {}", texture_path, profile.name));
        session.say(
            row_text("device", fmt::format("{}, sides up to {}, anisotropy up to {}", profile.api,
                                           profile.max_2d_side, profile.max_anisotropy)));
        session.say(row_text(
            "format", fmt::format("{}{}", yl::info(made.shape.format).name,
                                  made.converts() ? fmt::format(", converted from {}",
                                                                yl::info(made.source_format).name)
                                                  : "")));
        session.say(row_text("sampler", yl::sampler_text(fitted)));
        session.say(row_text("levels", fmt::format("{} to {} shown", shown.first, shown.last())));
        session.say("");
        say_levels(made, equal);
        std::vector<Json> regions;  // for programs alone
        for (std::size_t i = 0; session.json && i < made.regions.size(); ++i) {
            regions.push_back(region_json(made.regions[i]));
            regions.back()["identical"] = static_cast<bool>(equal[i]);
        }
        const auto same = std::count(equal.begin(), equal.end(), true);
        session.say("");
        session.say(fmt::format("  {} of {} {} read back identical, {} in all", same, equal.size(),
                                made.regions.size() > made.shape.levels ? "parts" : "levels",
                                byte_text(made.staging_bytes)));
        session.warn(findings, texture_path);
        session.give([&] {
            return Json({{"input", texture_path},
                         {"api", profile.api},
                         {"device", profile.name},
                         {"gpu_format", yl::info(made.shape.format).name},
                         {"converted", made.converts()},
                         {"sampler", yl::sampler_text(fitted)},
                         {"bytes", made.staging_bytes},
                         {"regions", regions},
                         {"identical", same == static_cast<std::ptrdiff_t>(equal.size())},
                         {"findings", findings_json(findings)}});
        });
    }
};

}  // namespace

void add_upload(CLI::App& app, Session& session) {
    auto upload = std::make_shared<Upload>(
        Upload{session, Command(app, session, "upload",
                                "Upload a texture to a real device, read it back, compare; or plan "
                                "it for one that is not here")});
    Command& command = upload->command;
    command.runs([upload] { return upload->run(); });
    command.add(
        {.rows = {{"TEXTURE",
                   &upload->texture_path,
                   "",
                   "A texture file; a picture file is baked on the spot",
                   {.required = true, .reads_pipes = true}},
                  {"--api",
                   &upload->api,
                   "gl|gles|vulkan|d3d12",
                   "The graphics API: gl, gles, vulkan or d3d12",
                   {.allowed = one_of({"gl", "gles", "vulkan", "d3d12"}),
                    .rules = {refused_without(on_device,
                                              "--plan needs no device, and names its own API")}}},
                  {"--device",
                   &upload->device,
                   "NAME",
                   "vulkan, d3d12: part of the device's name",
                   {.rules = {refused_without(
                        on_named_device, "devices have names with --api vulkan and --api d3d12")}}},
                  {"--sampler", &upload->sampler, "SAMPLER", "The sampler to create"}}});
    command.add(input_options(
        upload->inputs,
        {.alpha = {refused_without(on_device, "a plan goes by sizes and formats alone")}}));
    command.add(plan_options(upload->plan));
}

}  // namespace ylat
