#include "model_tables.hpp"

#include <fmt/format.h>
#include <yl/model_bake.hpp>

#include <algorithm>

#include "describe.hpp"

namespace ylat {
namespace {

using yl::model::BoundTexture;
using yl::model::Model;
using yl::model::ModelImage;
using yl::model::ModelMaterial;

std::string source_of(const ModelImage& image) {
    return image.source == yl::model::ImageSource::file ? image.uri
                                                        : std::string(name(image.source));
}

std::string trouble_of(const ModelImage& image) {
    if (!image.error)
        return "";
    switch (image.error->kind) {
        case yl::ErrorKind::missing:
            return "missing";
        case yl::ErrorKind::memory:
        case yl::ErrorKind::forbidden:
        case yl::ErrorKind::interrupted:
        case yl::ErrorKind::io:
            return "unreadable";
        case yl::ErrorKind::usage:
            return "refused";
        default:
            return "broken";
    }
}

std::string size_of(const ModelImage& image) {
    return image.width > 0 ? size_text(image.width, image.height) : trouble_of(image);
}

std::string alpha_text(const ModelMaterial& material) {
    if (material.surface.alpha == yl::AlphaUse::mask)
        return fmt::format("mask {:g}", material.surface.cutoff);
    return material.surface.alpha == yl::AlphaUse::blend ? "blend" : "";
}

std::string coordinates_text(const BoundTexture& texture) {
    std::vector<std::string> parts;
    if (texture.coordinate_set > 0)
        parts.push_back(fmt::format("set {}", texture.coordinate_set));
    if (texture.transform)
        parts.emplace_back("transformed");
    return fmt::format("{}", fmt::join(parts, ", "));
}

/// "2", or "7 (from 2)" for a baked one.
std::string image_text(const BoundTexture& texture) {
    if (!texture.image)
        return "none";
    return texture.ordinary_image
               ? fmt::format("{} (from {})", *texture.image, *texture.ordinary_image)
               : std::to_string(*texture.image);
}

std::string layer_text(const BoundTexture& texture) {
    return texture.layer ? fmt::format("{} {:g}", texture.layer->operation, texture.layer->strength)
                         : "";
}

/// For each image the roles in which textures are made of it.
std::vector<std::vector<std::string>> roles_of_images(const Model& model) {
    std::vector<std::vector<std::string>> roles(model.images.size());
    for (const yl::model::NeededTexture& texture : yl::model::bindings_of(model).textures) {
        if (!texture.image)
            continue;
        auto& list = roles[*texture.image];
        const std::string role(info(texture.role).name);
        if (std::ranges::find(list, role) == list.end())
            list.push_back(role);
    }
    return roles;
}

Json image_json(const ModelImage& image) {
    Json json = {{"name", image.name},   {"from", name(image.source)},
                 {"uri", image.uri},     {"file_format", image.file_format},
                 {"width", image.width}, {"height", image.height},
                 {"bytes", image.bytes}};
    if (image.same_as)
        json["same_as"] = *image.same_as;
    if (image.error)
        json["error"] = image.error->sentence();
    return json;
}

}  // namespace

Json transform_json(const yl::model::CoordinateTransform& transform) {
    Json json = {
        {"offset", transform.offset}, {"rotation", transform.rotation}, {"scale", transform.scale}};
    if (transform.matrix)
        json["matrix"] = *transform.matrix;
    return json;
}

std::string image_table(const Model& model) {
    std::vector<std::vector<std::string>> table = {
        {"image", "name", "from", "file", "texels", "bytes", "used as", "same as", ""}};
    const auto roles = roles_of_images(model);
    for (std::size_t i = 0; i < model.images.size(); ++i) {
        const ModelImage& image = model.images[i];
        table.push_back({std::to_string(i), image.name, source_of(image), image.file_format,
                         image.width > 0 ? size_text(image.width, image.height) : "",
                         image.bytes > 0 ? byte_text(image.bytes) : "",
                         fmt::format("{}", fmt::join(roles[i], ", ")),
                         image.same_as ? std::to_string(*image.same_as) : "", trouble_of(image)});
    }
    return table_text(table);
}

std::string slot_table(const Model& model) {
    std::vector<std::vector<std::string>> table = {{"material", "alpha", "slot", "image", "from",
                                                    "texels", "role", "sampler", "coordinates",
                                                    "layer"}};
    for (const ModelMaterial& material : model.materials)
        for (const BoundTexture& texture : material.textures) {
            const bool is_first = &texture == material.textures.data();
            const ModelImage* image = texture.image ? &model.images[*texture.image] : nullptr;
            table.push_back(
                {is_first ? material.surface.name : "", is_first ? alpha_text(material) : "",
                 std::string(name(texture.slot)), image_text(texture),
                 image != nullptr ? source_of(*image) : "", image != nullptr ? size_of(*image) : "",
                 std::string(info(role_of(texture.slot)).name), yl::sampler_text(texture.sampler),
                 coordinates_text(texture), layer_text(texture)});
        }
    return table.size() > 1 ? table_text(table) : "";
}

Json json_of(const Model& model) {
    Json images = Json::array(), materials = Json::array();
    const auto roles = roles_of_images(model);
    for (std::size_t i = 0; i < model.images.size(); ++i) {
        images.push_back(image_json(model.images[i]));
        images.back()["used_as"] = roles[i];
    }
    for (const ModelMaterial& material : model.materials) {
        Json textures = Json::array();
        for (const BoundTexture& texture : material.textures) {
            Json one = {{"slot", name(texture.slot)},
                        {"texture", texture.texture},
                        {"role", info(role_of(texture.slot)).name},
                        {"sampler", yl::sampler_text(texture.sampler)},
                        {"coordinate_set", texture.coordinate_set},
                        {"factor", texture.factor}};
            if (texture.image)
                one["image"] = *texture.image;
            if (texture.ordinary_image)
                one["made_from"] = *texture.ordinary_image;
            if (texture.layer)
                one["layer"] = {{"operation", texture.layer->operation},
                                {"strength", texture.layer->strength}};
            if (texture.transform)
                one["transform"] = transform_json(*texture.transform);
            textures.push_back(one);
        }
        const bool is_mask = material.surface.alpha == yl::AlphaUse::mask;
        Json one = {{"name", material.surface.name},
                    {"alpha", is_mask                                         ? "mask"
                              : material.surface.alpha == yl::AlphaUse::blend ? "blend"
                                                                              : "opaque"},
                    {"textures", textures}};
        if (is_mask)
            one["cutoff"] = material.surface.cutoff;
        materials.push_back(one);
    }
    return {{"input", model.file.string()},
            {"images", images},
            {"materials", materials},
            {"findings", findings_json(model.findings)}};
}

}  // namespace ylat
