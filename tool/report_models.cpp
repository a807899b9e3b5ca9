#include "report_models.hpp"

#include <fmt/format.h>

#include <yl/status_macros.hpp>

#include "bound_textures.hpp"

namespace ylat {
namespace {

yl::Result<yl::ReportPart> part_of(const BoundTextures& textures, std::size_t index,
                                   const ReportChoices& choices) {
    const std::optional<yl::Sampler> sampler =
        choices.sampler ? choices.sampler : textures.sampler(index);
    YL_TRY(yl::LintReport found, textures.lint(index, {.sampler = sampler}));
    yl::ReportTexture shown{.name = textures.label(index),
                            .texture = &*textures.made[index].texture,
                            .lint = std::move(found),
                            .sampler = sampler};
    if (const auto& needed = textures.bindings.textures[index]; needed.image) {
        const auto& image = textures.model.images[*needed.image];
        shown.file = image.file.empty() ? textures.model.file.string() : image.file.string();
        shown.file_format = image.file_format;
        shown.file_bytes = image.bytes;
        shown.is_picture = !image.texture;
    }
    return yl::report_part(shown, {.max_bytes = choices.bytes_each});
}

std::vector<yl::ReportMaterial> materials_of(
    const BoundTextures& textures, const std::vector<std::optional<std::size_t>>& part_of_texture) {
    std::vector<yl::ReportMaterial> materials;
    for (std::size_t i = 0; i < textures.bindings.materials.size(); ++i) {
        const std::string& name = textures.model.materials[i].surface.name;
        yl::ReportMaterial material{.name = name.empty() ? fmt::format("material {}", i) : name};
        for (const auto& binding : textures.bindings.materials[i])
            material.bindings.push_back({.slot = std::string(yl::model::name(binding.slot)),
                                         .texture = part_of_texture[binding.texture],
                                         .image = textures.label(binding.texture),
                                         .sampler = yl::sampler_text(binding.sampler)});
        materials.push_back(std::move(material));
    }
    return materials;
}

/// The drawn model; nothing where it has no triangles.
yl::Result<yl::Image> drawn(const yl::model::Model& model, yl::ReportModel& shown) {
    YL_TRY(const yl::ModelScene scene, yl::model::scene_of(model, shown.findings));
    for (const yl::Primitive& part : scene.parts)
        shown.triangles += part.indices.size() / 3;
    if (shown.triangles == 0)
        return yl::Image();
    return yl::draw_model(scene, {.width = 640, .height = 400});
}

}  // namespace

yl::Result<ReportedModel> report_model(const std::string& path, const ReportChoices& choices) {
    YL_TRY(const BoundTextures textures, read_bound_textures(path));
    ReportedModel reported{
        .model = {.name = textures.model.file.filename().string(), .file = path}};
    reported.model.findings = textures.model.findings;
    std::vector<std::optional<std::size_t>> part_of_texture(textures.size());
    for (std::size_t i = 0; i < textures.size(); ++i) {
        const auto& made = textures.made[i];
        yl::Result<yl::ReportPart> part = made.texture
                                              ? part_of(textures, i, choices)
                                              : tl::unexpected(made.error.value_or(yl::Error{
                                                    yl::ErrorKind::missing, "there is no image"}));
        if (!part) {
            reported.failures.push_back({textures.label(i), part.error().sentence()});
            continue;
        }
        part_of_texture[i] = reported.parts.size();
        reported.parts.push_back(std::move(*part));
    }
    reported.model.materials = materials_of(textures, part_of_texture);
    YL_TRY(reported.model.picture, drawn(textures.model, reported.model));
    return reported;
}

}  // namespace ylat
