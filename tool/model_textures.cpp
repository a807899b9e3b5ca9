#include "model_textures.hpp"

#include <fmt/format.h>

#include <filesystem>

#include <yl/status_macros.hpp>

#include "describe.hpp"
#include "model_extract.hpp"
#include "model_tables.hpp"

namespace ylat {
namespace {

using yl::model::BakedTexture;
using yl::model::MadeTexture;
using yl::model::Model;
using yl::model::NeededTexture;
using yl::model::TextureBinding;
using yl::model::TextureBindings;

/// "03_slate_color.ktx2": in the order of the list.
std::string texture_file_name(const Model& model, const NeededTexture& needed, std::size_t index) {
    const std::string name = needed.image ? safe_name(model.images[*needed.image]) : "";
    return fmt::format("{:02}{}{}_{}.ktx2", index, name.empty() ? "" : "_", name,
                       info(needed.role).name);
}

Json binding_json(const TextureBinding& binding) {
    Json json = {{"slot", name(binding.slot)},
                 {"texture", binding.texture},
                 {"sampler", yl::sampler_text(binding.sampler)},
                 {"coordinate_set", binding.coordinate_set},
                 {"factor", binding.factor}};
    if (binding.transform)
        json["transform"] = transform_json(*binding.transform);
    if (binding.layer)
        json["layer"] = {{"operation", binding.layer->operation},
                         {"strength", binding.layer->strength}};
    return json;
}

Json materials_json(const Model& model, const TextureBindings& bindings) {
    Json materials = Json::array();
    for (std::size_t i = 0; i < bindings.materials.size(); ++i) {
        Json bound = Json::array();
        for (const TextureBinding& binding : bindings.materials[i])
            bound.push_back(binding_json(binding));
        materials.push_back({{"name", model.materials[i].surface.name}, {"textures", bound}});
    }
    return materials;
}

/// Writes one texture, and describes it for the list.
yl::Result<Json> write_one(const Session& session, const std::string& folder,
                           const std::string& file, BakedTexture texture, const MadeTexture& made,
                           const yl::TextureWriteOptions& options) {
    if (made.error) {
        session.say(row_text(texture.needed.label, "not made: " + made.error->sentence()));
        return texture_json(texture);
    }
    texture.format = made.texture->shape().format;
    texture.shape = made.texture->shape();
    texture.device_bytes = texture.shape.total_bytes();
    yl::TextureShape plain = texture.shape;
    plain.format = yl::Format::rgba8_unorm;
    texture.plain_device_bytes = plain.total_bytes();
    const std::string path = (std::filesystem::path(folder) / file).string();
    YL_CHECK(yl::write_texture(path, *made.texture, options));
    std::error_code error;
    texture.texture_file_bytes = std::filesystem::file_size(path, error);
    session.say(row_text(file, fmt::format("{}, {}, {} levels, {}",
                                           size_text(texture.shape.width, texture.shape.height),
                                           info(texture.format).name, texture.shape.levels,
                                           byte_text(texture.texture_file_bytes))));
    Json json = texture_json(texture);
    json["file"] = file;
    json["swizzle"] = yl::swizzle_text(made.texture->metadata.swizzle);
    return json;
}

}  // namespace

yl::Result<Exit> bake_model_textures(const Session& session, const std::string& path,
                                     const Model& model, const ModelBakeChoices& choices) {
    YL_TRY(auto options, options_of(choices));
    const std::string& folder = choices.output;
    YL_CHECK(make_folder(folder));
    const TextureBindings bindings = yl::model::bindings_of(model);
    const auto made = yl::model::make_textures(model, bindings, options.bake, session.progress());
    Json textures = Json::array();
    yl::Findings findings = model.findings;
    for (std::size_t i = 0; i < made.size(); ++i) {
        const NeededTexture& needed = bindings.textures[i];
        BakedTexture texture{.needed = needed, .error = made[i].error};
        if (needed.image)
            texture.picture_file_bytes = model.images[*needed.image].bytes;
        YL_TRY(Json one, write_one(session, folder, texture_file_name(model, needed, i),
                                   std::move(texture), made[i], options.write));
        if (needed.image)
            one["image"] = *needed.image;
        textures.push_back(std::move(one));
        for (yl::Finding finding : made[i].findings) {
            finding.problem = needed.label + ": " + finding.problem;
            findings.push_back(std::move(finding));
        }
    }
    const Json all = {
        {"model", path}, {"textures", textures}, {"materials", materials_json(model, bindings)}};
    const std::string text = all.dump(2) + "\n";
    YL_CHECK(yl::write_whole_file((std::filesystem::path(folder) / "textures.json").string(),
                                  std::as_bytes(std::span(text))));
    session.say(fmt::format("{} -> {}: {} textures, and textures.json", path, folder, made.size()));
    session.warn(findings, path);
    session.give([&] { return all; });
    return session.outcome();
}

}  // namespace ylat
