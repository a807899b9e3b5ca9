// glTF 2.0: materials, textures, samplers and images.
#include <algorithm>
#include <functional>
#include <unordered_map>

#include <yl/codec.hpp>
#include <yl/container.hpp>
#include <yl/mesh.hpp>
#include "base/attempt.hpp"
#include "base/file.hpp"
#include "mesh/gltf/buffers.hpp"
#include "mesh/gltf/uri.hpp"

namespace yl::mesh {
namespace {

struct SlotPlace {
    Slot slot;
    std::string_view name;
    Role role;
    std::string_view path;  ///< of the texture's info within the material
};

// glTF 2.0, section 3.9, and the KHR_materials extensions.
constexpr SlotPlace slots[] = {
    {Slot::base_color, "base color", Role::color, "pbrMetallicRoughness/baseColorTexture"},
    {Slot::metallic_roughness, "metallic-roughness", Role::data,
     "pbrMetallicRoughness/metallicRoughnessTexture"},
    {Slot::normal, "normal", Role::normal, "normalTexture"},
    {Slot::occlusion, "occlusion", Role::data, "occlusionTexture"},
    {Slot::emissive, "emissive", Role::color, "emissiveTexture"},
    {Slot::clearcoat, "clearcoat", Role::data,
     "extensions/KHR_materials_clearcoat/clearcoatTexture"},
    {Slot::clearcoat_roughness, "clearcoat roughness", Role::data,
     "extensions/KHR_materials_clearcoat/clearcoatRoughnessTexture"},
    {Slot::clearcoat_normal, "clearcoat normal", Role::normal,
     "extensions/KHR_materials_clearcoat/clearcoatNormalTexture"},
    {Slot::sheen_color, "sheen color", Role::color,
     "extensions/KHR_materials_sheen/sheenColorTexture"},
    {Slot::sheen_roughness, "sheen roughness", Role::data,
     "extensions/KHR_materials_sheen/sheenRoughnessTexture"},
    {Slot::specular, "specular", Role::data, "extensions/KHR_materials_specular/specularTexture"},
    {Slot::specular_color, "specular color", Role::color,
     "extensions/KHR_materials_specular/specularColorTexture"},
    {Slot::transmission, "transmission", Role::data,
     "extensions/KHR_materials_transmission/transmissionTexture"},
    {Slot::thickness, "thickness", Role::data, "extensions/KHR_materials_volume/thicknessTexture"},
    {Slot::iridescence, "iridescence", Role::data,
     "extensions/KHR_materials_iridescence/iridescenceTexture"},
    {Slot::iridescence_thickness, "iridescence thickness", Role::data,
     "extensions/KHR_materials_iridescence/iridescenceThicknessTexture"},
    {Slot::anisotropy, "anisotropy", Role::data,
     "extensions/KHR_materials_anisotropy/anisotropyTexture"},
};

class Reader {
 public:
    Reader(const Json& json, const Container& container, const std::filesystem::path& folder,
           const ModelReadOptions& options)
        : json_(json),
          folder_(folder),
          options_(options),
          buffers_(json, container, folder, options) {}

    Result<Model> read() {
        YL_CHECK(check_version());
        for (std::size_t i = 0; i < count_of(json_, "images"); ++i)
            YL_CHECK(add_image(i));
        find_equal_images();
        for (const Json& material : list("materials"))
            YL_CHECK(add_material(material));
        find_conflicts();
        return std::move(model_);
    }

 private:
    const Json& list(const char* key) const {
        static const Json empty = Json::array();
        const Json& found = member(json_, key);
        return found.is_array() ? found : empty;
    }

    Status check_version() const {
        const std::string version = text_of(member(json_, "asset"), "version");
        if (version.empty())
            return fail(ErrorKind::malformed, "asset.version is missing: this is no glTF");
        if (!version.starts_with("2."))
            return fail(
                ErrorKind::unsupported,
                fmt::format("the model is of glTF {}; version 2 is read", version.substr(0, 20)));
        return {};
    }

    /// Broken references fail; what cannot be had is the image's own error.
    Status add_image(std::size_t index) {
        const Json& entry = list("images")[index];
        ModelImage image;
        image.name = text_of(entry, "name");
        const std::string uri = text_of(entry, "uri");
        YL_TRY(const auto view, index_of(entry, "bufferView", json_, "bufferViews"));
        if (uri.empty() && !view)
            return fail(ErrorKind::malformed,
                        fmt::format("image {} has neither a URI nor a buffer view", index));
        std::vector<std::byte> content;
        Result<std::vector<std::byte>> had = content;
        if (view) {
            image.source = ImageSource::buffer_view;
            YL_TRY(const auto bytes, buffers_.view(*view));
            had = std::vector<std::byte>(bytes.begin(), bytes.end());
        } else if (is_data_uri(uri)) {
            image.source = ImageSource::data_uri;
            image.uri = uri.substr(0, 40);
            had = decode_data_uri(uri, options_.limits.greatest_bytes);
        } else {
            image.uri = uri;
            had = read_image_file(uri, image);
        }
        if (had)
            content = std::move(*had);
        else
            image.error = had.error();
        describe(image, content);
        if (image.error)
            model_.findings.push_back(
                {fmt::format("image {}{} cannot be had: {}", index,
                             image.name.empty() ? "" : " (" + image.name + ")",
                             image.error->sentence()),
                 "bring the file, or let a placeholder stand for it"});
        model_.images.push_back(std::move(image));
        model_.contents.push_back(std::move(content));
        return {};
    }

    Result<std::vector<std::byte>> read_image_file(const std::string& uri,
                                                   ModelImage& image) const {
        auto file = resolve_uri(uri, folder_, options_.allow_outside);
        if (!file)
            return fail_at(file.error(), uri);
        image.file = *file;
        return read_file(*file, options_.limits.greatest_bytes);
    }

    /// Format and size by the content, whatever the name or the type says.
    void describe(ModelImage& image, const std::vector<std::byte>& content) const {
        image.bytes = content.size();
        if (image.error || !options_.look_into_images)
            return;
        if (looks_like_texture(content)) {
            const auto stream = TextureStream::open(content, {.limits = options_.limits});
            if (!stream) {
                image.error = stream.error();
                return;
            }
            image.file_format = stream->info().file_format;
            image.width = stream->shape().width;
            image.height = stream->shape().height;
            return;
        }
        const auto picture = read_picture(content, {.limits = options_.limits});
        if (!picture) {
            image.error = picture.error();
            return;
        }
        image.file_format = picture->info.file_format;
        image.width = picture->image.width();
        image.height = picture->image.height();
    }

    void find_equal_images() {
        std::unordered_multimap<std::size_t, std::size_t> by_hash;
        for (std::size_t i = 0; i < model_.images.size(); ++i) {
            const auto& content = model_.contents[i];
            if (content.empty())
                continue;
            const std::size_t hash = std::hash<std::string_view>{}(
                {reinterpret_cast<const char*>(content.data()), content.size()});
            const auto [begin, end] = by_hash.equal_range(hash);
            for (auto same = begin; same != end && !model_.images[i].same_as; ++same)
                if (model_.contents[same->second] == content)
                    model_.images[i].same_as = same->second;
            if (!model_.images[i].same_as)
                by_hash.emplace(hash, i);
        }
    }

    /// Enumerants of glTF 2.0, section 5.26; what is absent or unknown has the default.
    Result<Sampler> sampler_of(const Json& texture) const {
        YL_TRY(const auto index, index_of(texture, "sampler", json_, "samplers"));
        Sampler sampler;
        if (!index)
            return sampler;
        const Json& entry = list("samplers")[*index];
        YL_TRY(const auto mag, whole_of(entry, "magFilter"));
        YL_TRY(const auto min, whole_of(entry, "minFilter"));
        if (mag == 9728U)
            sampler.mag = Filter::nearest;
        if (min) {
            const std::uint64_t number = *min;
            const bool has_mips = number >= 9984 && number <= 9987;
            sampler.min = number == 9728 || number == 9984 || number == 9986 ? Filter::nearest
                                                                             : Filter::linear;
            sampler.mip = !has_mips        ? MipFilter::none
                          : number >= 9986 ? MipFilter::linear
                                           : MipFilter::nearest;
        }
        YL_TRY(sampler.wrap[0], wrap_of(entry, "wrapS"));
        YL_TRY(sampler.wrap[1], wrap_of(entry, "wrapT"));
        return sampler;
    }

    static Result<Wrap> wrap_of(const Json& sampler, const char* key) {
        YL_TRY(const auto number, whole_of(sampler, key));
        return number == 33071U   ? Wrap::clamp_to_edge
               : number == 33648U ? Wrap::mirror
                                  : Wrap::repeat;
    }

    /// KTX 2.0 by its extension comes before the ordinary source.
    Result<std::optional<std::size_t>> image_of(const Json& texture) const {
        YL_TRY(const auto universal, index_of(member_at(texture, "extensions/KHR_texture_basisu"),
                                              "source", json_, "images"));
        if (universal)
            return universal;
        return index_of(texture, "source", json_, "images");
    }

    static std::optional<CoordinateTransform> transform_of(const Json& info) {
        const Json& entry = member_at(info, "extensions/KHR_texture_transform");
        if (!entry.is_object())
            return std::nullopt;
        const auto pair = [&](const char* key, std::array<float, 2> otherwise) {
            const Json& value = member(entry, key);
            if (value.is_array() && value.size() == 2 && value[0].is_number() &&
                value[1].is_number())
                return std::array{value[0].get<float>(), value[1].get<float>()};
            return otherwise;
        };
        return CoordinateTransform{pair("offset", {0, 0}), number_of(entry, "rotation", 0),
                                   pair("scale", {1, 1})};
    }

    Status add_slot(const Json& info, const SlotPlace& place, ModelMaterial& material) {
        YL_TRY(const auto index, index_of(info, "index", json_, "textures"));
        if (!index)
            return fail(ErrorKind::malformed, fmt::format("the {} texture of '{}' has no index",
                                                          place.name, material.name));
        const Json& texture = list("textures")[*index];
        BoundTexture bound;
        bound.slot = place.slot;
        bound.texture = *index;
        YL_TRY(bound.image, image_of(texture));
        YL_TRY(bound.sampler, sampler_of(texture));
        bound.transform = transform_of(info);
        YL_TRY(const auto set, whole_of(info, "texCoord"));
        YL_TRY(const auto other_set,
               whole_of(member_at(info, "extensions/KHR_texture_transform"), "texCoord"));
        bound.coordinate_set = static_cast<std::uint32_t>(
            std::min<std::uint64_t>(other_set.value_or(set.value_or(0)), 0xFFFFFFFFU));
        bound.factor = number_of(info, place.slot == Slot::occlusion ? "strength" : "scale", 1);
        if (!bound.image)
            model_.findings.push_back(
                {fmt::format("texture {} ({} of '{}') has no image that is understood", *index,
                             place.name, material.name),
                 "store its image as PNG, JPEG or KTX 2.0"});
        material.textures.push_back(bound);
        return {};
    }

    Status add_material(const Json& entry) {
        ModelMaterial material;
        material.name = text_of(entry, "name");
        if (material.name.empty())
            material.name = fmt::format("material {}", model_.materials.size());
        const std::string alpha = text_of(entry, "alphaMode");
        material.alpha = alpha == "MASK"    ? AlphaUse::mask
                         : alpha == "BLEND" ? AlphaUse::blend
                                            : AlphaUse::opaque;
        material.cutoff = number_of(entry, "alphaCutoff", 0.5F);
        for (const SlotPlace& place : slots) {
            const Json& info = member_at(entry, place.path);
            if (info.is_object())
                YL_CHECK(add_slot(info, place, material));
        }
        model_.materials.push_back(std::move(material));
        return {};
    }

    /// One image as colours here and as numbers there has to be converted twice.
    void find_conflicts() {
        std::vector<std::array<bool, 2>> uses(model_.images.size());
        for (const ModelMaterial& material : model_.materials)
            for (const BoundTexture& texture : material.textures)
                if (texture.image) {
                    const std::size_t image =
                        model_.images[*texture.image].same_as.value_or(*texture.image);
                    uses[image][role_of(texture.slot) == Role::color ? 0 : 1] = true;
                }
        for (std::size_t i = 0; i < uses.size(); ++i)
            if (uses[i][0] && uses[i][1])
                model_.findings.push_back(
                    {fmt::format("image {} is used as colours and as numbers", i),
                     "nothing has to be done: it becomes two textures, one sRGB and one linear"});
    }

    const Json& json_;
    std::filesystem::path folder_;
    const ModelReadOptions& options_;
    Buffers buffers_;
    Model model_ = {};
};

}  // namespace

std::string_view name(Slot slot) {
    return slots[static_cast<std::size_t>(slot)].name;
}

Role role_of(Slot slot) {
    return slots[static_cast<std::size_t>(slot)].role;
}

std::string_view name(ImageSource source) {
    constexpr std::string_view names[] = {"file", "data URI", "buffer view"};
    return names[static_cast<std::size_t>(source)];
}

Result<Model> read_model(std::span<const std::byte> bytes, const std::filesystem::path& folder,
                         const ModelReadOptions& options) {
    YL_TRY(const Container container, split_container(bytes));
    const auto* begin = reinterpret_cast<const char*>(container.json.data());
    const Json json = Json::parse(begin, begin + container.json.size(), nullptr, false);
    if (json.is_discarded() || !json.is_object())
        return fail(ErrorKind::malformed, "this is neither a .glb file nor JSON of glTF");
    return Reader(json, container, folder, options).read();
}

Result<Model> read_model(const std::filesystem::path& path, const ModelReadOptions& options) {
    YL_TRY(const std::vector<std::byte> bytes, read_file(path, options.limits.greatest_bytes));
    auto model = read_model(bytes, path.parent_path(), options);
    if (!model)
        return fail_at(model.error(), path.string());
    model->file = path;
    return model;
}

}  // namespace yl::mesh
