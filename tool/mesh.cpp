// ylat mesh: the textures of a model.
#include <fmt/format.h>
#include <yl/mesh.hpp>

#include <memory>

#include "describe.hpp"
#include "session.hpp"

namespace ylat {
namespace {

using yl::mesh::BoundTexture;
using yl::mesh::Model;
using yl::mesh::ModelImage;
using yl::mesh::ModelMaterial;

struct Mesh {
    Session& session;
    std::string path = {};
    bool allow_outside = false;

    yl::Result<Exit> run() const {
        yl::mesh::ModelReadOptions options;
        options.allow_outside = allow_outside;
        const auto model = yl::mesh::read_model(path, options);
        if (!model)
            return tl::unexpected(model.error());
        session.say(fmt::format("{}: {} materials, {} images", path, model->materials.size(),
                                model->images.size()));
        if (!model->images.empty())
            session.say("\n" + image_table(*model));
        if (has_textures(*model))
            session.say("\n" + slot_table(*model));
        session.warn(model->findings, path);
        session.give(json_of(*model));
        return model->findings.empty() ? Exit::done : Exit::findings;
    }

    static bool has_textures(const Model& model) {
        for (const ModelMaterial& material : model.materials)
            if (!material.textures.empty())
                return true;
        return false;
    }

    static std::string source_of(const ModelImage& image) {
        return image.source == yl::mesh::ImageSource::file ? image.uri
                                                           : std::string(name(image.source));
    }

    static std::string trouble_of(const ModelImage& image) {
        if (!image.error)
            return "";
        switch (image.error->kind) {
            case yl::ErrorKind::io:
                return "missing";
            case yl::ErrorKind::usage:
                return "refused";
            default:
                return "broken";
        }
    }

    static std::string image_table(const Model& model) {
        std::vector<std::vector<std::string>> table = {
            {"image", "name", "from", "file", "texels", "bytes", "same as", ""}};
        for (std::size_t i = 0; i < model.images.size(); ++i) {
            const ModelImage& image = model.images[i];
            table.push_back({std::to_string(i), image.name, source_of(image), image.file_format,
                             image.width > 0 ? size_text(image.width, image.height) : "",
                             image.bytes > 0 ? byte_text(image.bytes) : "",
                             image.same_as ? std::to_string(*image.same_as) : "",
                             trouble_of(image)});
        }
        return table_text(table);
    }

    static std::string alpha_text(const ModelMaterial& material) {
        if (material.alpha == yl::mesh::AlphaUse::mask)
            return fmt::format("mask {:g}", material.cutoff);
        return material.alpha == yl::mesh::AlphaUse::blend ? "blend" : "";
    }

    static std::string slot_table(const Model& model) {
        std::vector<std::vector<std::string>> table = {
            {"material", "alpha", "slot", "image", "role", "sampler", "coordinates"}};
        for (const ModelMaterial& material : model.materials)
            for (const BoundTexture& texture : material.textures) {
                const bool is_first = &texture == material.textures.data();
                std::string coordinates =
                    texture.coordinate_set > 0 ? fmt::format("set {}", texture.coordinate_set) : "";
                if (texture.transform)
                    coordinates += coordinates.empty() ? "transformed" : ", transformed";
                table.push_back({is_first ? material.name : "",
                                 is_first ? alpha_text(material) : "",
                                 std::string(name(texture.slot)),
                                 texture.image ? std::to_string(*texture.image) : "none",
                                 std::string(info(role_of(texture.slot)).name),
                                 yl::sampler_text(texture.sampler), coordinates});
            }
        return table_text(table);
    }

    static Json image_json(const ModelImage& image) {
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

    Json json_of(const Model& model) const {
        Json images = Json::array(), materials = Json::array();
        for (const ModelImage& image : model.images)
            images.push_back(image_json(image));
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
                if (texture.transform)
                    one["transform"] = {{"offset", texture.transform->offset},
                                        {"rotation", texture.transform->rotation},
                                        {"scale", texture.transform->scale}};
                textures.push_back(one);
            }
            const bool is_mask = material.alpha == yl::mesh::AlphaUse::mask;
            Json one = {{"name", material.name},
                        {"alpha", is_mask                                       ? "mask"
                                  : material.alpha == yl::mesh::AlphaUse::blend ? "blend"
                                                                                : "opaque"},
                        {"textures", textures}};
            if (is_mask)
                one["cutoff"] = material.cutoff;
            materials.push_back(one);
        }
        return {{"model", path},
                {"images", images},
                {"materials", materials},
                {"findings", findings_json(model.findings)}};
    }
};

}  // namespace

void add_mesh(CLI::App& app, Session& session) {
    auto mesh = std::make_shared<Mesh>(Mesh{session});
    CLI::App* command = add_command(app, session, "mesh", "List the textures of a glTF model",
                                    [mesh] { return mesh->run(); });
    command->add_option("MODEL", mesh->path, "A .gltf or .glb file")->required();
    command->add_flag("--allow-outside", mesh->allow_outside,
                      "Read images outside of the model's folder, if it asks for them");
}

}  // namespace ylat
