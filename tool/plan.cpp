#include <yl/status_macros.hpp>

#include "plan.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>

#include "archives.hpp"
#include "arguments.hpp"
#include "describe.hpp"

namespace ylat {
namespace {

/// A texture's shape and metadata; a picture has to be baked for them.
struct Planned {
    yl::TextureShape shape = {};
    yl::TextureMetadata metadata = {};
};

yl::Result<Planned> load_shape(const Session& session, const std::string& path,
                               const InputOptions& inputs) {
    YL_TRY(const auto kind, file_kind(path));
    if (kind == FileKind::texture) {
        const auto stream = yl::TextureStream::open(path,
                                                    {.limits = yl::Limits::none(),
                                                     .role = inputs.role.value_or(yl::Role::color),
                                                     .transfer = inputs.transfer,
                                                     .files = files_for(path)},
                                                    yl::FileAccess::on_demand);
        if (!stream)
            return yl::fail_at(stream.error(), path);
        session.note(file_findings(stream->info()), path);
        return Planned{stream->shape(), stream->metadata()};
    }
    YL_TRY(const auto texture, open_texture(session, path, inputs));
    return Planned{texture.shape(), texture.metadata};
}

/// A list of what `name_of` calls each number.
template <class Numbers, class NameOf>
Json names_of(const Numbers& numbers, const NameOf& name_of) {
    Json names = Json::array();
    for (const std::uint32_t number : numbers)
        names.push_back(name_of(number));
    return names;
}

Json gl_sampler_json(const yl::Sampler& sampler) {
    const auto words = yl::gl_sampler(sampler);
    return {{"mag_filter", words.mag_filter},
            {"min_filter", words.min_filter},
            {"wrap", words.wrap},
            {"names",
             {{"mag_filter", yl::gl_enumerant(words.mag_filter)},
              {"min_filter", yl::gl_enumerant(words.min_filter)},
              {"wrap", names_of(words.wrap, yl::gl_enumerant)}}}};
}

Json vulkan_sampler_json(const yl::Sampler& sampler) {
    using Part = yl::VulkanSamplerPart;
    const auto words = yl::vulkan_sampler(sampler);
    return {{"mag_filter", words.mag_filter},
            {"min_filter", words.min_filter},
            {"mipmap_mode", words.mipmap_mode},
            {"address_mode", words.address_mode},
            {"min_lod", words.min_lod},
            {"max_lod", words.max_lod},
            {"border_color", words.border_color},
            {"names",
             {{"mag_filter", yl::vulkan_enumerant(Part::filter, words.mag_filter)},
              {"min_filter", yl::vulkan_enumerant(Part::filter, words.min_filter)},
              {"mipmap_mode", yl::vulkan_enumerant(Part::mipmap_mode, words.mipmap_mode)},
              {"address_mode", names_of(words.address_mode, [](std::uint32_t mode) {
                   return yl::vulkan_enumerant(Part::address_mode, mode);
               })}}}};
}

Json d3d12_sampler_json(const yl::Sampler& sampler) {
    using Part = yl::Direct3dSamplerPart;
    const auto words = yl::d3d12_sampler(sampler);
    return {{"filter", words.filter},
            {"address_mode", words.address_mode},
            {"max_anisotropy", words.max_anisotropy},
            {"min_lod", words.min_lod},
            {"max_lod", words.max_lod},
            {"names",
             {{"filter", yl::direct3d_enumerant(Part::filter, words.filter)},
              {"address_mode", names_of(words.address_mode, [](std::uint32_t mode) {
                   return yl::direct3d_enumerant(Part::address_mode, mode);
               })}}}};
}

Json sampler_json(const yl::Sampler& sampler, yl::GraphicsApi api) {
    switch (api) {
        case yl::GraphicsApi::vulkan:
            return vulkan_sampler_json(sampler);
        case yl::GraphicsApi::direct3d12:
        case yl::GraphicsApi::direct3d11:  // whose numbers are the same
            return d3d12_sampler_json(sampler);
        case yl::GraphicsApi::webgpu: {
            const auto words = yl::webgpu_sampler(sampler);
            return {{"mag_filter", words.mag_filter},
                    {"min_filter", words.min_filter},
                    {"mipmap_filter", words.mipmap_filter},
                    {"address_mode", words.address_mode},
                    {"max_anisotropy", words.max_anisotropy}};
        }
        case yl::GraphicsApi::metal: {
            const auto words = yl::metal_sampler(sampler);
            return {{"mag_filter", words.mag_filter},
                    {"min_filter", words.min_filter},
                    {"mip_filter", words.mip_filter},
                    {"address_mode", words.address_mode},
                    {"border_color", words.border_color}};
        }
        default:
            return gl_sampler_json(sampler);
    }
}

/// The names alone, for people: those of a list but once where they are equal.
std::string sampler_names(const Json& words) {
    std::vector<std::string> names;
    const Json& source = words.contains("names") ? words["names"] : words;
    for (const Json& entry : source)
        for (const Json& name : entry.is_array() ? entry : Json::array({entry}))
            if (name.is_string() &&
                std::ranges::find(names, name.get<std::string>()) == names.end())
                names.push_back(name);
    return fmt::format("{}", fmt::join(names, ", "));
}

/// What the API calls the format.
std::string format_word(yl::Format format, yl::GraphicsApi api) {
    const yl::FormatInfo& f = yl::info(format);
    switch (api) {
        case yl::GraphicsApi::vulkan:
            return fmt::format("{} ({})", yl::vulkan_enumerant(format),
                               static_cast<std::uint32_t>(format));
        case yl::GraphicsApi::direct3d12:
        case yl::GraphicsApi::direct3d11:
            return fmt::format("{} ({})", yl::dxgi_enumerant(format), f.dxgi);
        case yl::GraphicsApi::webgpu:
            return std::string(f.webgpu);
        case yl::GraphicsApi::metal:
            return fmt::format("MTLPixelFormat{}", f.metal);
        default:
            return fmt::format("{} ({:#06x}), {} ({:#06x}), {} ({:#06x})",
                               yl::gl_enumerant(f.gl.internal_format), f.gl.internal_format,
                               yl::gl_enumerant(f.gl.format), f.gl.format,
                               yl::gl_enumerant(f.gl.type), f.gl.type);
    }
}

/// A line for each part of a level, with its neighbours of the same kind. Columns that say the same
/// on every line stay empty.
std::string region_table(const yl::UploadPlan& plan) {
    const auto parts_of = [](std::span<const yl::UploadRegion> rest) {
        const auto other = std::ranges::find_if(rest, [&](const yl::UploadRegion& region) {
            return region.level != rest[0].level || region.y != rest[0].y || region.z != rest[0].z;
        });
        return static_cast<std::size_t>(other - rest.begin());
    };
    const bool has_parts = plan.shape.layers * plan.shape.faces > 1;
    const bool has_batches = plan.batches.size() > 1;
    std::vector<std::vector<std::string>> table = {
        {"batch", "level", "texels", "parts", "from row", "offset", "row pitch", "slice pitch"}};
    for (std::size_t b = 0; b < plan.batches.size(); ++b) {
        auto rest = plan.regions_of(plan.batches[b]);
        while (!rest.empty()) {
            const yl::UploadRegion& first = rest[0];
            const std::size_t parts = parts_of(rest);
            rest = rest.subspan(parts);
            std::string texels = size_text(first.width, first.height);
            if (first.depth > 1)
                texels += fmt::format(" x {}", first.depth);
            std::string row = first.y > 0 ? std::to_string(first.y) : "";
            if (first.z > 0)
                row += fmt::format("{}slice {}", row.empty() ? "" : ", ", first.z);
            table.push_back({has_batches ? std::to_string(b) : "", std::to_string(first.level),
                             texels, has_parts ? std::to_string(parts) : "", row,
                             std::to_string(first.offset), std::to_string(first.row_pitch),
                             std::to_string(first.slice_pitch)});
        }
    }
    return table_text(table);
}

}  // namespace

yl::Result<yl::UploadOptions> PlanChoices::options() const {
    yl::UploadOptions options;
    options.levels.first = first_level.value_or(0);
    if (!staging.empty()) {
        YL_TRY(const auto bytes, parse_bytes(staging, "--staging"));
        options.staging_budget = bytes;
    }
    options.smallest_first = smallest_first;
    if (transcodes)
        options.missing_blocks = yl::MissingBlocks::transcode;
    options.transcode_effort = transcode_effort;
    return options;
}

Facts facts_of(const yl::UploadPlan& plan) {
    return when(plan.transcodes(), transcodes_blocks);
}

OptionTable plan_options(PlanChoices& choices) {
    std::string names;
    for (const yl::DeviceProfile& profile : yl::built_in_profiles())
        names += (names.empty() ? "" : ", ") + profile.name;
    return {
        "The plan",
        {{"--plan", &choices.profile, "DEVICE",
          "Plan for a typical device instead, without needing one: " + names},
         {"--from-level", &choices.first_level, "N", "Upload from this level on; the others later"},
         {"--staging", &choices.staging, "BYTES[k|M|G]", "Copy in batches of at most this size"},
         {"--smallest-first", &choices.smallest_first, "", "Begin with the smallest level"},
         {"--transcode",
          &choices.transcodes,
          "",
          "Blocks that the device lacks become its own blocks that lose least, not plain texels",
          {.rules = {idle_without(transcodes_blocks,
                                  "the device has the texture's blocks, or none of its own that "
                                  "take its channels and sides")}}},
         {"--effort",
          &choices.transcode_effort,
          "0..10",
          "How hard the encoder of --transcode tries: 0 (fast) to 10 (exhaustive)",
          {.allowed = in_range(0, 10),
           .rules = {refused_without(asks_for_blocks, "nothing is encoded: add --transcode"),
                     idle_without(transcodes_blocks, "nothing is transcoded")}}}}};
}

std::string side_text(const yl::TextureShape& shape, std::uint32_t level) {
    if (shape.dimensions() == 1)
        return std::to_string(shape.width_at(level));
    const std::string sides = size_text(shape.width_at(level), shape.height_at(level));
    return shape.dimensions() == 3 ? fmt::format("{} x {}", sides, shape.depth_at(level)) : sides;
}

Json region_json(const yl::UploadRegion& region) {
    return {{"level", region.level},
            {"layer", region.layer},
            {"face", region.face},
            {"x", region.x},
            {"y", region.y},
            {"z", region.z},
            {"width", region.width},
            {"height", region.height},
            {"depth", region.depth},
            {"offset", region.offset},
            {"row_pitch", region.row_pitch},
            {"slice_pitch", region.slice_pitch},
            {"bytes", region.slice_pitch * region.depth}};
}

namespace {

/// A plan as it is shown.
struct ShownPlan {
    const std::string& path;
    const yl::DeviceProfile& profile;
    const yl::UploadPlan& plan;
    const yl::Sampler& sampler;
};

void say_plan(const Session& session, const ShownPlan& shown) {
    const auto& [path, profile, plan, fitted] = shown;
    session.say(fmt::format("{} for {} ({})", path, profile.name, profile.api));
    session.say(row_text("texture", fmt::format("{} {}, {}", yl::name(yl::kind_of(plan.shape)),
                                                side_text(plan.shape, 0), shape_text(plan.shape))));
    session.say(row_text("format", fmt::format("{}{}: {}", yl::info(plan.shape.format).name,
                                               plan.shape.format != plan.source_format
                                                   ? fmt::format(", converted from {}",
                                                                 yl::info(plan.source_format).name)
                                                   : "",
                                               format_word(plan.shape.format, profile.api_kind))));
    session.say(row_text("swizzle", yl::swizzle_text(plan.swizzle)));
    session.say(row_text("sampler", yl::sampler_text(fitted)));
    session.say(row_text("", sampler_names(sampler_json(fitted, profile.api_kind))));
    session.say(row_text(
        "staging", fmt::format("{} in {} {}, at most {} at once", byte_text(plan.staging_bytes),
                               plan.batches.size(), plan.batches.size() == 1 ? "batch" : "batches",
                               byte_text(plan.max_batch))));
    session.say(
        row_text("alignment", fmt::format("rows to {} bytes, regions to {}",
                                          profile.row_pitch_alignment, profile.offset_alignment)));
    session.say("\n" + region_table(plan));
}

Json plan_json(const ShownPlan& shown, const yl::Findings& findings) {
    const auto& [path, profile, plan, fitted] = shown;
    Json batches = Json::array();
    for (const yl::UploadBatch& batch : plan.batches) {
        Json regions = Json::array();
        for (const yl::UploadRegion& region : plan.regions_of(batch))
            regions.push_back(region_json(region));
        batches.push_back({{"bytes", batch.bytes}, {"regions", regions}});
    }
    return {{"input", path},
            {"profile", profile.name},
            {"api", profile.api},
            {"gpu_format", yl::info(plan.shape.format).name},
            {"format_word", format_word(plan.shape.format, profile.api_kind)},
            {"converted", plan.converts()},
            {"swizzle", yl::swizzle_text(plan.swizzle)},
            {"sampler", yl::sampler_text(fitted)},
            {"api_sampler", sampler_json(fitted, profile.api_kind)},
            {"staging_bytes", plan.staging_bytes},
            {"max_batch", plan.max_batch},
            {"batches", batches},
            {"findings", findings_json(findings)}};
}

}  // namespace

yl::Result<Exit> show_plan(const Session& session, const Command& command, const std::string& path,
                           const std::string& profile_name, const yl::UploadOptions& options,
                           const InputOptions& inputs) {
    const auto profile = yl::find_profile(profile_name);
    if (!profile)
        return yl::fail_at(profile.error(), "--plan");
    YL_TRY(const auto texture, load_shape(session, path, inputs));
    const auto plan = yl::plan_upload(texture.shape, *profile, options, texture.metadata.swizzle,
                                      texture.metadata.transfer);
    if (!plan)
        return yl::fail_at(plan.error(), path);
    const yl::Sampler asked =
        options.sampler.value_or(texture.metadata.sampler.value_or(yl::Sampler{}));
    yl::Findings findings = plan->findings;
    for (yl::Finding& finding : command.idle_options(facts_of(*plan)))
        findings.push_back(std::move(finding));
    for (yl::Finding& finding : yl::check_on_device(
             {.shape = plan->shape, .sampler = asked, .role = options.role}, *profile))
        findings.push_back(std::move(finding));
    yl::Findings changes;
    const yl::Sampler fitted = yl::fit_sampler(asked, *profile, changes);

    const ShownPlan shown{path, *profile, *plan, fitted};
    say_plan(session, shown);
    session.warn(findings, path);
    session.give([&] { return Json(plan_json(shown, findings)); });
    return session.outcome();
}

}  // namespace ylat
