// ylat upload: a texture file to a real device and back.
#include <fmt/format.h>

#include <algorithm>
#include <memory>

#include "arguments.hpp"
#include "describe.hpp"
#include "driver.hpp"
#include "session.hpp"

namespace ylat {
namespace {

struct Upload {
    Session& session;
    std::string texture_path = {};
    std::string api = "gl";
    std::string sampler = {};

    yl::Result<Exit> run() const {
        const auto texture = load_texture(texture_path);
        if (!texture)
            return tl::unexpected(texture.error());
        yl::gl::UploadOptions options;
        if (!sampler.empty()) {
            const auto parsed = yl::parse_sampler(sampler);
            if (!parsed)
                return tl::unexpected(parsed.error());
            options.sampler = *parsed;
        }
        const auto driver = Driver::open();
        if (!driver)
            return tl::unexpected(driver.error());
        const auto uploaded = driver->device.upload(*texture, options);
        if (!uploaded)
            return tl::unexpected(uploaded.error());
        const auto back = uploaded->read_back();
        if (!back)
            return tl::unexpected(back.error());

        yl::Texture expected;
        if (uploaded->plan().converts()) {
            auto converted = yl::converted_for(uploaded->plan(), *texture);
            if (!converted)
                return tl::unexpected(converted.error());
            expected = std::move(*converted);
        }
        const std::vector<bool> equal =
            compare(uploaded->plan(), uploaded->plan().converts() ? expected : *texture, *back);
        report(driver->device.profile(), *uploaded, equal);
        const bool all_equal = std::find(equal.begin(), equal.end(), false) == equal.end();
        return all_equal && uploaded->findings().empty() ? Exit::done : Exit::findings;
    }

    /// Region by region.
    static std::vector<bool> compare(const yl::UploadPlan& plan, const yl::Texture& sent,
                                     const yl::Texture& back) {
        std::vector<bool> equal;
        for (const yl::UploadRegion& region : plan.regions) {
            const auto a = sent.image(region.level, region.layer, region.face);
            const auto b = back.image(region.level, region.layer, region.face);
            bool is_equal = true;
            for (std::uint32_t y = 0; y < a.row_count(); ++y)
                is_equal = is_equal && std::ranges::equal(a.row(y), b.row(y));
            equal.push_back(is_equal);
        }
        return equal;
    }

    /// A line for each level, whose layers and faces follow each other.
    void say_levels(const yl::UploadPlan& plan, const std::vector<bool>& equal) const {
        const std::size_t parts = plan.regions.size() / plan.shape.levels;
        session.say(fmt::format("  {:>5}  {:>12}  {:>5}  {:>12}  {:>10}  {:>10}  {}", "level",
                                "texels", "parts", "offset", "row pitch", "bytes", "read back"));
        for (std::size_t i = 0; i < plan.regions.size(); i += parts) {
            const yl::UploadRegion& region = plan.regions[i];
            const auto begin = equal.begin() + static_cast<std::ptrdiff_t>(i);
            const bool all_equal = std::find(begin, begin + static_cast<std::ptrdiff_t>(parts),
                                             false) == begin + static_cast<std::ptrdiff_t>(parts);
            session.say(fmt::format("  {:>5}  {:>12}  {:>5}  {:>12}  {:>10}  {:>10}  {}",
                                    region.level, size_text(region.width, region.height), parts,
                                    region.offset, region.row_pitch, parts * region.slice_pitch,
                                    all_equal ? "identical" : "DIFFERENT"));
        }
    }

    void report(const yl::DeviceProfile& profile, const yl::gl::GpuTexture& uploaded,
                const std::vector<bool>& equal) const {
        const yl::UploadPlan& plan = uploaded.plan();
        session.say(fmt::format("{} -> {}", texture_path, profile.name));
        session.say(
            row_text("device", fmt::format("{}, sides up to {}, anisotropy up to {}", profile.api,
                                           profile.greatest_2d_side, profile.greatest_anisotropy)));
        session.say(row_text(
            "format", fmt::format("{}{}", yl::info(plan.shape.format).name,
                                  plan.converts() ? fmt::format(", converted from {}",
                                                                yl::info(plan.source_format).name)
                                                  : "")));
        session.say(row_text("sampler", yl::sampler_text(uploaded.sampler())));
        session.say(
            row_text("levels", fmt::format("{} to {} declared", uploaded.declared_levels().base,
                                           uploaded.declared_levels().max)));
        session.say("");
        say_levels(plan, equal);
        Json regions = Json::array();
        for (std::size_t i = 0; i < plan.regions.size(); ++i) {
            const yl::UploadRegion& region = plan.regions[i];
            regions.push_back({{"level", region.level},
                               {"layer", region.layer},
                               {"face", region.face},
                               {"width", region.width},
                               {"height", region.height},
                               {"offset", region.offset},
                               {"row_pitch", region.row_pitch},
                               {"bytes", region.slice_pitch},
                               {"identical", static_cast<bool>(equal[i])}});
        }
        const auto same = std::count(equal.begin(), equal.end(), true);
        session.say("");
        session.say(fmt::format("  {} of {} {} read back identical, {} in all", same, equal.size(),
                                plan.regions.size() > plan.shape.levels ? "parts" : "levels",
                                byte_text(plan.staging_bytes)));
        session.warn(uploaded.findings(), texture_path);
        session.give({{"texture", texture_path},
                      {"api", profile.api},
                      {"device", profile.name},
                      {"gpu_format", yl::info(plan.shape.format).name},
                      {"converted", plan.converts()},
                      {"sampler", yl::sampler_text(uploaded.sampler())},
                      {"bytes", plan.staging_bytes},
                      {"regions", regions},
                      {"identical", same == static_cast<std::ptrdiff_t>(equal.size())},
                      {"findings", findings_json(uploaded.findings())}});
    }
};

}  // namespace

void add_upload(CLI::App& app, Session& session) {
    auto upload = std::make_shared<Upload>(Upload{session});
    CLI::App* command = add_command(app, session, "upload",
                                    "Upload a texture to a real device, read it back, compare",
                                    [upload] { return upload->run(); });
    command
        ->add_option("TEXTURE", upload->texture_path,
                     "A texture file; a picture file is baked on the spot")
        ->required();
    command->add_option("--api", upload->api, "The graphics API: gl")->check(CLI::IsMember({"gl"}));
    command->add_option("--sampler", upload->sampler, "The sampler to create")
        ->option_text("SAMPLER");
}

}  // namespace ylat
