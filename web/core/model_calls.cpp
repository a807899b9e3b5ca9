// Models: what their materials bind, which images that needs, and their triangles.
#include <yl/files.hpp>
#include <yl/model_bake.hpp>
#include <yl/sampler_rules.hpp>

#include "request.hpp"

namespace yl::web {
namespace {

/// The files that a page has given; what else is asked for is remembered.
class GivenFiles final : public Files {
 public:
    explicit GivenFiles(std::map<std::string, SharedBytes> contents)
        : given_(memory_files(std::move(contents))) {}

    [[nodiscard]] Result<std::unique_ptr<File>> open(
        const std::filesystem::path& name) const override {
        auto file = given_->open(name);
        if (!file && file.error().kind == ErrorKind::missing)
            lacking_.push_back(name.generic_string());
        return file;
    }
    [[nodiscard]] Result<std::vector<std::string>> list() const override { return given_->list(); }
    [[nodiscard]] const std::vector<std::string>& lacking() const { return lacking_; }

 private:
    std::shared_ptr<const Files> given_;
    mutable std::vector<std::string> lacking_ = {};
};

/// `files` is a list of {"name", "bytes"}: what a model has besides.
Result<std::map<std::string, SharedBytes>> files_of(const Json& request) {
    std::map<std::string, SharedBytes> contents;
    if (!has(request, "files"))
        return contents;
    if (!request["files"].is_array())
        return wrong("files", "a list");
    for (const Json& file : request["files"]) {
        YL_TRY(const std::string name, text(file, "name"));
        YL_TRY(const auto bytes, memory(file, "bytes"));
        contents.emplace(name, std::vector<std::byte>(bytes.begin(), bytes.end()));
    }
    return contents;
}

Json to_json(const model::ModelImage& image) {
    return {{"name", image.name},
            {"source", model::name(image.source)},
            {"uri", image.source == model::ImageSource::file ? image.uri : std::string()},
            {"bytes", image.bytes},
            {"error", image.error ? Json(image.error->sentence()) : Json()}};
}

Json to_json(const model::NeededTexture& texture) {
    Json json = {{"image", texture.image ? Json(*texture.image) : Json()},
                 {"role", info(texture.role).name},
                 {"label", texture.label}};
    if (texture.cutoff)
        json["cutoff"] = *texture.cutoff;
    return json;
}

Json to_json(const model::TextureBinding& binding) {
    return {{"slot", model::name(binding.slot)},
            {"texture", binding.texture},
            {"sampler", sampler_text(binding.sampler)},
            {"coordinate_set", binding.coordinate_set},
            {"matrix", model::matrix_of(binding.transform)},
            {"factor", binding.factor}};
}

Json material_json(const Material& surface, const std::vector<model::TextureBinding>& bindings) {
    Json list = Json::array();
    for (const model::TextureBinding& binding : bindings)
        list.push_back(to_json(binding));
    constexpr const char* alpha[] = {"opaque", "mask", "blend"};
    return {
        {"name", surface.name},         {"base_color", surface.base_color},
        {"metallic", surface.metallic}, {"roughness", surface.roughness},
        {"emissive", surface.emissive}, {"alpha", alpha[static_cast<std::size_t>(surface.alpha)]},
        {"cutoff", surface.cutoff},     {"is_two_sided", surface.is_two_sided},
        {"is_unlit", surface.is_unlit}, {"bindings", std::move(list)}};
}

template <class Part>
Json list_of(const std::vector<Part>& parts) {
    Json list = Json::array();
    for (const Part& part : parts)
        list.push_back(to_json(part));
    return list;
}

/// A model of glTF. Files that it names and the page has not given are `missing`: images need not be
/// given, since the page loads them by their addresses.
Result<Json> open(Objects& objects, const Json& request) {
    YL_TRY(const auto bytes, memory(request, "bytes"));
    YL_TRY(auto contents, files_of(request));
    const auto files = std::make_shared<GivenFiles>(std::move(contents));
    YL_TRY(model::Model read,
           model::read_model(bytes, {}, {.files = files, .look_into_images = false}));
    const model::TextureBindings bindings = model::bindings_of(read);
    Json materials = Json::array();
    for (std::size_t i = 0; i < read.materials.size(); ++i)
        materials.push_back(material_json(read.materials[i].surface, bindings.materials[i]));
    Json json = {{"images", list_of(read.images)},    {"textures", list_of(bindings.textures)},
                 {"materials", std::move(materials)}, {"samplers", bindings.samplers},
                 {"missing", files->lacking()},       {"findings", web::to_json(read.findings)}};
    json["model"] = objects.keep(std::make_shared<model::Model>(std::move(read)));
    return json;
}

Result<model::Model*> model_of(Objects& objects, const Json& request) {
    YL_TRY(const auto* held, object<std::shared_ptr<model::Model>>(objects, request, "model"));
    return held->get();
}

/// The file of an image that is within the model.
Result<Json> image(Objects& objects, const Json& request) {
    YL_TRY(const model::Model* model, model_of(objects, request));
    YL_TRY(const std::uint32_t index, number(request, "image"));
    if (index >= model->images.size())
        return wrong("image", "one of the model's");
    if (model->images[index].error)
        return tl::unexpected(*model->images[index].error);
    return Json{{"memory", place_of(model->contents[index])}};
}

template <class Element>
std::vector<std::byte> bytes_of(const std::vector<Element>& elements) {
    const auto bytes = std::as_bytes(std::span(elements));
    return {bytes.begin(), bytes.end()};
}

/// Triangles by material. Vertices lie one after the other, `vertex_bytes` each, with floats at the
/// offsets of `attributes`; indices are of 32 bits.
Result<Json> primitives(Objects& objects, const Json& request) {
    YL_TRY(const model::Model* model, model_of(objects, request));
    Findings findings;
    YL_TRY(const std::vector<Primitive> made, model::primitives_of(*model, findings));
    Json list = Json::array();
    for (const Primitive& primitive : made)
        list.push_back({{"material", primitive.surface},
                        {"has_coordinates", primitive.has_coordinates},
                        {"vertices", objects.keep(bytes_of(primitive.vertices))},
                        {"vertex_count", primitive.vertices.size()},
                        {"indices", objects.keep(bytes_of(primitive.indices))},
                        {"index_count", primitive.indices.size()}});
    return Json{{"primitives", std::move(list)},
                {"vertex_bytes", sizeof(Vertex)},
                {"attributes",
                 {{"position", offsetof(Vertex, position)},
                  {"normal", offsetof(Vertex, normal)},
                  {"tangent", offsetof(Vertex, tangent)},
                  {"coordinates", offsetof(Vertex, coordinates)},
                  {"color", offsetof(Vertex, color)}}},
                {"findings", web::to_json(findings)}};
}

/// Where kept bytes lie.
Result<Json> bytes(Objects& objects, const Json& request) {
    YL_TRY(const std::vector<std::byte>* held,
           object<std::vector<std::byte>>(objects, request, "object"));
    return Json{{"memory", place_of(*held)}};
}

constexpr NamedCall calls[] = {{"open_model", open, "bytes files"},
                               {"model_image", image, "model image"},
                               {"model_primitives", primitives, "model"},
                               {"bytes", bytes, "object"}};

}  // namespace

std::span<const NamedCall> model_calls() {
    return calls;
}

}  // namespace yl::web
