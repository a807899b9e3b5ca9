#include <yl/status_macros.hpp>

#include "model_bake.hpp"

#include <fmt/format.h>

#include <charconv>
#include <set>

#include "blocks.hpp"
#include "describe.hpp"

namespace ylat {
namespace {

using yl::model::BakedTexture;
using yl::model::ModelBakeOptions;
using yl::model::ModelBakeReport;

/// Calls `set` with the options of each role that "ROLE=VALUE", or "VALUE" for all, speaks of.
template <class Set>
yl::Status for_roles(const std::string& text, const char* option, ModelBakeOptions& options,
                     const Set& set) {
    const std::size_t equals = text.find('=');
    const std::string value = equals == std::string::npos ? text : text.substr(equals + 1);
    std::optional<yl::Role> only;
    if (equals != std::string::npos) {
        only = yl::find_role(text.substr(0, equals));
        if (!only)
            return yl::fail_at(
                {yl::ErrorKind::usage,
                 fmt::format("\"{}\" begins with no role; there are {}", text, role_names())},
                option);
    }
    for (const yl::RoleInfo& role : yl::all_roles()) {
        if (only && *only != role.role)
            continue;
        auto done = set(value, role.role, options.bake[role.role]);
        if (!done)
            return yl::fail_at(done.error(), option);
    }
    return {};
}

yl::Status set_format(const std::string& text, yl::Role role, yl::BakeOptions& options) {
    options.format.reset();
    options.compressed = yl::BlockFamily::none;
    return text == "plain" ? yl::Status{} : choose_format(text, role, options);
}

yl::Status set_effort(const std::string& text, yl::Role, yl::BakeOptions& options) {
    int effort = -1;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), effort);
    if (error != std::errc() || end != text.data() + text.size() || effort < 0 || effort > 10)
        return yl::fail(yl::ErrorKind::usage,
                        fmt::format("\"{}\" is not an effort; it goes from 0 to 10", text));
    options.blocks.effort = effort;
    return {};
}

std::string use_text(const BakedTexture& texture) {
    const std::string role(info(texture.needed.role).name);
    return texture.needed.cutoff ? fmt::format("{}, mask {:g}", role, *texture.needed.cutoff)
                                 : role;
}

std::string texture_table(const ModelBakeReport& report) {
    std::vector<std::vector<std::string>> table = {{"texture", "role", "format", "texels", "levels",
                                                    "picture", "KTX 2.0", "RGBA8", "on device"}};
    BakedTexture sum;
    std::set<std::size_t> pictures;
    for (const BakedTexture& texture : report.textures) {
        if (texture.error) {
            table.push_back(
                {texture.needed.label, use_text(texture), "placeholder", "", "", "", "", "", ""});
            continue;
        }
        table.push_back(
            {texture.needed.label, use_text(texture), std::string(info(texture.format).name),
             size_text(texture.shape.width, texture.shape.height),
             std::to_string(texture.shape.levels), byte_text(texture.picture_file_bytes),
             byte_text(texture.texture_file_bytes), byte_text(texture.plain_device_bytes),
             byte_text(texture.device_bytes)});
        if (pictures.insert(*texture.needed.image).second)
            sum.picture_file_bytes += texture.picture_file_bytes;
        sum.texture_file_bytes += texture.texture_file_bytes;
        sum.plain_device_bytes += texture.plain_device_bytes;
        sum.device_bytes += texture.device_bytes;
    }
    table.push_back({"together", "", "", "", "", byte_text(sum.picture_file_bytes),
                     byte_text(sum.texture_file_bytes), byte_text(sum.plain_device_bytes),
                     byte_text(sum.device_bytes)});
    return table_text(table);
}

}  // namespace

yl::Result<ModelBakeOptions> options_of(const ModelBakeChoices& choices) {
    ModelBakeOptions options;
    options.keep_pictures = choices.keep_pictures;
    YL_TRY(const auto packing, parse_supercompression(choices.supercompression));
    options.write = packing;
    for (const std::string& text : choices.formats)
        YL_CHECK(for_roles(text, "--as", options, set_format));
    for (const std::string& text : choices.efforts)
        YL_CHECK(for_roles(text, "--effort", options, set_effort));
    for (const yl::RoleInfo& role : yl::all_roles()) {
        options.bake[role.role].max_side = choices.max_side;
        options.bake[role.role].power_of_two = named_power_of_two(choices.power_of_two);
    }
    return options;
}

Json texture_json(const BakedTexture& texture) {
    Json json = {{"texture", texture.needed.label}, {"role", info(texture.needed.role).name}};
    if (texture.needed.cutoff)
        json["cutoff"] = *texture.needed.cutoff;
    if (texture.error) {
        json["error"] = texture.error->sentence();
        return json;
    }
    json["gpu_format"] = info(texture.format).name;
    json["width"] = texture.shape.width;
    json["height"] = texture.shape.height;
    json["levels"] = texture.shape.levels;
    json["picture_file_bytes"] = texture.picture_file_bytes;
    json["texture_file_bytes"] = texture.texture_file_bytes;
    json["plain_gpu_bytes"] = texture.plain_device_bytes;
    json["gpu_bytes"] = texture.device_bytes;
    return json;
}

std::vector<OptionTable> model_bake_options(ModelBakeChoices& choices) {
    const char* heading = "Baking";
    return {{heading,
             {{"--bake", &choices.output, "OUT.glb|FOLDER",
               "Write the model with every image baked for its role, as one .glb file (of glTF); "
               "or, into a folder, the textures of any model, with a list of what binds them"}}},
            {heading,
             {{"--keep-png",
               &choices.keep_pictures,
               "",
               "Keep PNG and JPEG images only, without textures",
               {.rules = {refused_without(writes_model | lists_textures | extracts_images,
                                          "a folder gets textures alone")}}},
              {"--as", &choices.formats, "[ROLE=]FORMAT",
               "The format for a role, or for all roles: a name, bc (the default) or etc for the "
               "block format that suits, or plain for an uncompressed one"},
              {"--effort", &choices.efforts, "[ROLE=]0..10",
               "How hard the encoder tries, 0 to 10, for a role or for all roles"},
              {"--max-size",
               &choices.max_side,
               "TEXELS",
               "Shrink textures that are larger",
               {.allowed = in_range(1, 65536)}},
              {"--pow2",
               &choices.power_of_two,
               "HOW",
               "Resize textures to powers of two: nearest, up or down",
               {.allowed = one_of({"any", "nearest", "up", "down"})}},
              {"--supercompress", &choices.supercompression, "SCHEME",
               "Compress each level: none, zlib[:LEVEL] or zstd[:LEVEL]"}},
             {refused_without(bakes_model, "it goes with --bake")}}};
}

yl::Result<Exit> bake_model_file(const Session& session, const std::string& path,
                                 const yl::model::Model& model, const ModelBakeChoices& choices) {
    YL_TRY(auto options, options_of(choices));
    options.progress = session.progress();
    const auto report = yl::model::bake_model(model, choices.output, options);
    if (!report)
        return yl::fail_at(report.error(), path);
    session.say(fmt::format("{} -> {}", path, choices.output));
    session.say(
        row_text("files", fmt::format("{} before, {} after", byte_text(report->file_bytes_before),
                                      byte_text(report->file_bytes_after))));
    if (!report->textures.empty()) {
        session.say(row_text("textures", fmt::format("KTX 2.0 by {}, beside PNG and JPEG",
                                                     yl::model::baked_extension)));
        session.say("\n" + texture_table(*report));
    }
    session.warn(report->findings, path);
    std::vector<Json> textures;  // for programs alone
    for (const BakedTexture& texture : report->textures)
        if (session.json)
            textures.push_back(texture_json(texture));
    session.give([&] {
        return Json({{"input", path},
                     {"output", choices.output},
                     {"file_bytes_before", report->file_bytes_before},
                     {"file_bytes_after", report->file_bytes_after},
                     {"textures", textures},
                     {"findings", findings_json(report->findings)}});
    });
    return session.outcome();
}

}  // namespace ylat
