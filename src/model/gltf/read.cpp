// glTF 2.0: materials, textures, samplers and images.
#include <algorithm>

#include <yl/model_bake.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "model/bindings.hpp"
#include "model/gltf/source.hpp"
#include "model/images.hpp"
#include "model/slots.hpp"
#include "model/uri.hpp"
#include "model/uses.hpp"

namespace yl::model {
namespace {

class Reader {
 public:
    explicit Reader(std::shared_ptr<GltfSource> source)
        : source_(std::move(source)),
          json_(source_->json()),
          options_(source_->options()),
          given_way_(count_of(json_, "images")) {}

    Result<Model> read() {
        YL_CHECK(check_version());
        for (std::size_t i = 0; i < count_of(json_, "images"); ++i)
            YL_CHECK(add_image(i));
        find_equal_images(model_);
        look_into_images(model_, options_);
        report_missing(model_);
        for (const Json& material : list_of(json_, "materials"))
            YL_CHECK(add_material(material));
        check_samplers();
        check_uses(model_);
        check_alpha(model_);
        check_coordinates();
        report_unused();
        model_.limits = options_.limits;
        model_.further_readers = options_.further_readers;
        model_.source = std::move(source_);
        return std::move(model_);
    }

 private:
    Status check_version() const {
        const std::string version = text_of(member(json_, "asset"), "version");
        if (version.empty() && member(json_, "meshes").is_object())
            return fail(ErrorKind::unsupported, "the model is of glTF 1; version 2 is read");
        if (version.empty())
            return fail(ErrorKind::malformed, "asset.version is missing: this is not glTF");
        if (!version.starts_with("2."))
            return fail(
                ErrorKind::unsupported,
                fmt::format("the model is of glTF {}; version 2 is read", version.substr(0, 20)));
        return {};
    }

    /// Broken references fail; what cannot be read is the image's own error.
    Status add_image(std::size_t index) {
        const Json& entry = list_of(json_, "images")[index];
        ModelImage image;
        image.name = text_of(entry, "name");
        const std::string& uri = text_of(entry, "uri");
        YL_TRY(const auto view, index_of(entry, "bufferView", json_, "bufferViews"));
        if (uri.empty() && !view)
            return fail(ErrorKind::malformed,
                        fmt::format("image {} has neither a URI nor a buffer view", index));
        ByteSpan content;
        if (view) {
            image.source = ImageSource::buffer_view;
            YL_TRY(content, source_->buffers().view(*view));
        } else {
            image.source = is_data_uri(uri) ? ImageSource::data_uri : ImageSource::file;
            image.uri = is_data_uri(uri) ? uri.substr(0, 40) : uri;
            auto held = open_image(uri, image);
            if (held)
                content = source_->hold(std::move(*held));
            else
                image.error = held.error();
        }
        image.bytes = content.size();
        model_.images.push_back(std::move(image));
        model_.contents.push_back(content);
        return {};
    }

    Result<std::unique_ptr<HeldBytes>> open_image(const std::string& uri, ModelImage& image) const {
        if (image.source == ImageSource::data_uri)
            return open_uri(uri, source_->folder(), options_);
        auto file =
            resolve_uri(uri, source_->folder(), options_.allow_outside, options_.files == nullptr);
        if (!file)
            return fail_at(file.error(), uri);
        image.file = *file;
        return open_bytes(*file, options_.limits, options_.files);
    }

    /// Enumerants of glTF 2.0, section 5.26; what is absent or unknown has the default.
    Result<Sampler> sampler_of(const Json& texture) const {
        YL_TRY(const auto index, index_of(texture, "sampler", json_, "samplers"));
        Sampler sampler;
        if (!index)
            return sampler;
        const Json& entry = list_of(json_, "samplers")[*index];
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
        sampler.wrap[2] = sampler.wrap[1];
        return sampler;
    }

    /// Numbers that glTF does not know were taken for the defaults.
    void check_samplers() {
        constexpr std::uint64_t filters[] = {9728, 9729, 9984, 9985, 9986, 9987};
        constexpr std::uint64_t wraps[] = {10497, 33071, 33648};
        const std::span<const std::uint64_t> all(filters);
        const std::tuple<const char*, std::span<const std::uint64_t>> members[] = {
            {"magFilter", all.first(2)}, {"minFilter", all}, {"wrapS", wraps}, {"wrapT", wraps}};
        for (std::size_t i = 0; i < count_of(json_, "samplers"); ++i)
            for (const auto& [key, known] : members) {
                const Json& value = member(list_of(json_, "samplers")[i], key);
                const auto number = value.is_number_unsigned() ? value.get<std::uint64_t>() : 0;
                if (!value.is_null() && std::ranges::find(known, number) == known.end())
                    model_.findings.push_back(
                        {"sampler-value-unknown",
                         fmt::format("sampler {} has the {} {}, which glTF does not know", i, key,
                                     value.dump().substr(0, 40)),
                         "its default is taken: export the model with a number that is known"});
            }
    }

    static Result<Wrap> wrap_of(const Json& sampler, const char* key) {
        YL_TRY(const auto number, whole_of(sampler, key));
        return number == 33071U   ? Wrap::clamp_to_edge
               : number == 33648U ? Wrap::mirror
                                  : Wrap::repeat;
    }

    /// What this library has baked for the role comes first, then texture files by their
    /// extensions, then the ordinary source; what cannot be read gives way to what can.
    Status find_image(const Json& texture, const ModelMaterial& material, BoundTexture& bound) {
        for (const char* place : {"extensions/KHR_texture_basisu", "extensions/MSFT_texture_dds",
                                  "extensions/EXT_texture_webp", ""}) {
            YL_TRY(const auto image,
                   index_of(member_at(texture, place), "source", json_, "images"));
            bound.image = bound.image ? better_of(bound.image, image) : image;
        }
        if (!options_.prefer_baked)
            return {};
        YL_TRY(const auto baked, baked_image(texture, material, bound.slot));
        if (baked && better_of(baked, bound.image) == baked)
            bound.ordinary_image = std::exchange(bound.image, baked);
        return {};
    }

    /// The first choice, unless it cannot be read and the second can.
    std::optional<std::size_t> better_of(std::optional<std::size_t> first,
                                         std::optional<std::size_t> second) {
        if (!first || !second || !model_.images[*first].error || model_.images[*second].error)
            return first ? first : second;
        if (!given_way_[*first])
            model_.findings.push_back({"image-replaced",
                                       fmt::format("image {} gives way to image {}, which is made "
                                                   "of the same",
                                                   *first, *second),
                                       "nothing has to be done: the texture is there",
                                       FindingLevel::hint});
        given_way_[*first] = true;
        return second;
    }

    Result<std::optional<std::size_t>> baked_image(const Json& texture,
                                                   const ModelMaterial& material, Slot slot) const {
        const Json& extension = member(member(texture, "extensions"), baked_extension.data());
        const auto cutoff = cutoff_of(material.surface, slot);
        const AlphaMode alpha = alpha_of(material.surface, slot);
        std::optional<std::size_t> baked;
        for (const Json& entry : list_of(extension, "sources")) {
            YL_TRY(const auto source, index_of(entry, "source", json_, "images"));
            const Json& its_cutoff = member(entry, "cutoff");
            const bool suits = text_of(entry, "role") == info(role_of(slot)).name &&
                               text_of(entry, "alpha") == alpha_word(role_of(slot), alpha) &&
                               its_cutoff.is_number() == cutoff.has_value() &&
                               (!cutoff || its_cutoff.get<float>() == *cutoff);
            if (suits && source)
                baked = source;
        }
        return baked;
    }

    static std::optional<CoordinateTransform> transform_of(const Json& info) {
        const Json& entry = member_at(info, "extensions/KHR_texture_transform");
        if (!entry.is_object())
            return std::nullopt;
        return CoordinateTransform{numbers_of<2>(entry, "offset", {0, 0}),
                                   number_of(entry, "rotation", 0),
                                   numbers_of<2>(entry, "scale", {1, 1})};
    }

    /// ", only EXT_one, EXT_other"; nothing where there are none.
    static std::string extensions_of(const Json& texture) {
        std::vector<std::string> names;
        const Json& extensions = member(texture, "extensions");
        if (extensions.is_object())
            for (auto entry = extensions.begin(); entry != extensions.end(); ++entry)
                names.push_back(entry.key());
        return names.empty() ? "" : fmt::format(", only {}", fmt::join(names, ", "));
    }

    Status add_slot(const Json& info, const SlotPlace& place, ModelMaterial& material) {
        YL_TRY(const auto index, index_of(info, "index", json_, "textures"));
        if (!index)
            return fail(ErrorKind::malformed, fmt::format("the {} texture of '{}' has no index",
                                                          place.name, material.surface.name));
        const Json& texture = list_of(json_, "textures")[*index];
        BoundTexture bound;
        bound.slot = place.slot;
        bound.texture = *index;
        YL_CHECK(find_image(texture, material, bound));
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
                {"image-not-understood",
                 fmt::format("texture {} ({} of '{}') has no image that is understood{}", *index,
                             place.name, material.surface.name, extensions_of(texture)),
                 "store its image as PNG, JPEG or KTX 2.0"});
        material.textures.push_back(bound);
        return {};
    }

    Status add_material(const Json& entry) {
        ModelMaterial material;
        material.surface = surface_of(entry);
        if (material.surface.name.empty())
            material.surface.name = fmt::format("material {}", model_.materials.size());
        const bool has_base = member_at(entry, slot_places()[0].path).is_object();
        for (const SlotPlace& place : slot_places()) {
            const Json* info = place.path.empty() ? &nothing() : &member_at(entry, place.path);
            if (place.slot == Slot::base_color && !has_base)
                info = &member_at(entry, diffuse_path);
            if (place.slot == Slot::diffuse && !has_base)
                continue;  // it is the base colour
            if (info->is_object())
                YL_CHECK(add_slot(*info, place, material));
        }
        model_.materials.push_back(std::move(material));
        return {};
    }

    /// Whether the meshes have the sets of coordinates by which their materials are read.
    void check_coordinates() {
        MissingSets missing;
        for (const Json& mesh : list_of(json_, "meshes"))
            for (const Json& primitive : list_of(mesh, "primitives")) {
                const Json& material = member(primitive, "material");
                if (!material.is_number_unsigned())
                    continue;
                const auto has_set = [&](std::uint32_t set) {
                    const std::string key = fmt::format("TEXCOORD_{}", set);
                    return !member(member(primitive, "attributes"), key.c_str()).is_null();
                };
                find_missing_sets(model_, material.get<std::size_t>(), has_set, missing);
            }
        report_missing_sets(model_, missing);
    }

    /// Textures that nothing uses, or only an extension that is not known.
    void report_unused() {
        std::vector<bool> is_used(count_of(json_, "textures"));
        for (const ModelMaterial& material : model_.materials)
            for (const BoundTexture& texture : material.textures)
                is_used[texture.texture] = true;
        std::vector<std::size_t> unused;
        for (std::size_t i = 0; i < is_used.size(); ++i)
            if (!is_used[i])
                unused.push_back(i);
        if (!unused.empty())
            model_.findings.push_back(
                {"textures-unused",
                 fmt::format("no slot that is known uses texture {}", fmt::join(unused, ", ")),
                 "remove what nothing needs; what an unknown extension uses stays as it is",
                 FindingLevel::hint});
    }

    static Material surface_of(const Json& entry) {
        Material surface;
        surface.name = text_of(entry, "name");
        const std::string alpha = text_of(entry, "alphaMode");
        surface.alpha = alpha == "MASK"    ? AlphaUse::mask
                        : alpha == "BLEND" ? AlphaUse::blend
                                           : AlphaUse::opaque;
        surface.cutoff = number_of(entry, "alphaCutoff", 0.5F);
        surface.is_two_sided = member(entry, "doubleSided") == true;
        surface.is_unlit = member_at(entry, "extensions/KHR_materials_unlit").is_object();
        const Json& metal = member(entry, "pbrMetallicRoughness");
        const Json& gloss = member_at(entry, "extensions/KHR_materials_pbrSpecularGlossiness");
        surface.base_color = numbers_of<4>(metal, "baseColorFactor",
                                           numbers_of<4>(gloss, "diffuseFactor", {1, 1, 1, 1}));
        surface.metallic = number_of(metal, "metallicFactor", gloss.is_object() ? 0.0F : 1.0F);
        surface.roughness = number_of(metal, "roughnessFactor", 1);
        surface.emissive = numbers_of<3>(entry, "emissiveFactor", {0, 0, 0});
        const float strength = number_of(
            member_at(entry, "extensions/KHR_materials_emissive_strength"), "emissiveStrength", 1);
        for (float& part : surface.emissive)
            part *= strength;
        return surface;
    }

    std::shared_ptr<GltfSource> source_;
    const Json& json_;
    const ModelReadOptions& options_;
    Model model_ = {};
    std::vector<bool> given_way_;  ///< images
};

Result<Model> read_gltf(std::unique_ptr<HeldBytes> file, const std::filesystem::path& folder,
                        const ModelReadOptions& options) {
    YL_TRY(auto source, GltfSource::open(std::move(file), folder, options));
    return Reader(std::move(source)).read();
}

}  // namespace

Result<Model> read_model(std::span<const std::byte> bytes, const std::filesystem::path& folder,
                         const ModelReadOptions& options) try {
    return read_gltf(
        std::make_unique<HeldBytes>(std::vector<std::byte>(bytes.begin(), bytes.end())), folder,
        options);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Model> read_model(const std::filesystem::path& path, const ModelReadOptions& options) try {
    YL_TRY(auto file, open_bytes(path, options.limits, options.files));
    auto model = read_gltf(std::move(file), path.parent_path(), options);
    if (!model)
        return fail_at(model.error(), path.string());
    model->file = path;
    return model;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::model
