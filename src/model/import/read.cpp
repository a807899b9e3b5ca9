// Models of other formats than glTF.
#include <fmt/format.h>

#include <map>

#include <yl/model_import.hpp>
#include <yl/picture.hpp>
#include <yl/status_macros.hpp>
#include "base/file.hpp"
#include "base/out_of_memory.hpp"
#include "model/images.hpp"
#include "model/import/file_search.hpp"
#include "model/import/materials.hpp"
#include "model/import/source.hpp"
#include "model/import/trial.hpp"
#include "model/uses.hpp"

namespace yl::model {
namespace {

/// Pixels in Assimp's order, blue first, as a PNG file.
Result<std::vector<std::byte>> png_of(const aiTexture& texture, const Limits& limits) {
    if (texture.mWidth > limits.max_side || texture.mHeight > limits.max_side)
        return fail(ErrorKind::limit,
                    fmt::format("{} x {} texels exceed the limit of {}", texture.mWidth,
                                texture.mHeight, limits.max_side));
    YL_TRY(Image image, Image::create(Format::rgba8_srgb, texture.mWidth, texture.mHeight));
    const aiTexel* from = texture.pcData;
    for (std::uint32_t y = 0; y < texture.mHeight; ++y) {
        std::byte* to = image.view().row(y).data();
        for (std::uint32_t x = 0; x < texture.mWidth; ++x, ++from)
            for (const unsigned char code : {from->r, from->g, from->b, from->a})
                *to++ = static_cast<std::byte>(code);
    }
    return encode_picture("png", image.view(), {.effort = 1});
}

class ImportedReader {
 public:
    ImportedReader(std::shared_ptr<ImportedSource> source, const std::filesystem::path& path,
                   const ModelReadOptions& options)
        : source_(std::move(source)),
          scene_(source_->scene()),
          folder_(path.parent_path()),
          options_(options) {
        model_.file = path;
        model_.limits = options.limits;
        model_.further_readers = options.further_readers;
    }

    Model read() {
        for (unsigned i = 0; i < scene_.mNumMaterials; ++i)
            add_material(*scene_.mMaterials[i]);
        add_unused();
        find_equal_images(model_);
        look_into_images(model_, options_);
        report_missing(model_);
        check_uses(model_);
        check_coordinates();
        report_missed_files();
        model_.source = std::move(source_);
        return std::move(model_);
    }

 private:
    void add_material(const aiMaterial& from) {
        ModelMaterial material;
        material.surface = surface_of(from);
        if (material.surface.name.empty())
            material.surface.name = fmt::format("material {}", model_.materials.size());
        for (ImportedTexture& texture : textures_of(from, model_.findings)) {
            texture.use.texture = count_++;
            texture.use.image = image_of(texture.path);
            material.textures.push_back(std::move(texture.use));
        }
        const auto& color = material.surface.base_color;
        for (const BoundTexture& texture : material.textures)
            if (texture.slot == Slot::base_color && color[0] + color[1] + color[2] == 0) {
                model_.findings.push_back(
                    {"color-black",
                     fmt::format("the colour of '{}' is black, which makes its texture black",
                                 material.surface.name),
                     "make the colour white; it is drawn as if it were"});
                for (std::size_t c = 0; c < 3; ++c)
                    material.surface.base_color[c] = 1;
                break;
            }
        model_.materials.push_back(std::move(material));
    }

    /// Such as the materials of an OBJ model.
    void report_missed_files() {
        for (const std::string& file : source_->missed_files())
            model_.findings.push_back(
                {"file-missing", fmt::format("the model asks for {}, which cannot be read", file),
                 "add the file: what it says about materials is missing", FindingLevel::error});
    }

    void check_coordinates() {
        MissingSets missing;
        for (unsigned i = 0; i < scene_.mNumMeshes; ++i) {
            if (scene_.mMeshes[i] == nullptr)
                continue;
            const aiMesh& mesh = *scene_.mMeshes[i];
            const auto has_set = [&](std::uint32_t set) { return mesh.HasTextureCoords(set); };
            if ((mesh.mPrimitiveTypes & aiPrimitiveType_TRIANGLE) != 0)
                find_missing_sets(model_, mesh.mMaterialIndex, has_set, missing);
        }
        report_missing_sets(model_, missing);
    }

    std::size_t image_of(const std::string& path) {
        const aiTexture* embedded = scene_.GetEmbeddedTexture(path.c_str());
        const std::string key = embedded != nullptr ? key_of(*embedded) : path;
        const auto known = places_.find(key);
        if (known != places_.end())
            return known->second;
        const std::size_t place = model_.images.size();
        places_.emplace(key, place);
        ModelImage image;
        image.uri = path;
        auto content = embedded != nullptr ? embedded_bytes(*embedded, image) : file_bytes(image);
        add(std::move(image), std::move(content));
        return place;
    }

    std::string key_of(const aiTexture& texture) const {
        return fmt::format("\n{}", static_cast<const void*>(&texture));  // no path has a line's end
    }

    /// Embedded textures that no material names are images all the same.
    void add_unused() {
        for (unsigned i = 0; i < scene_.mNumTextures; ++i) {
            const aiTexture& texture = *scene_.mTextures[i];
            if (places_.contains(key_of(texture)))
                continue;
            ModelImage image;
            auto content = embedded_bytes(texture, image);
            add(std::move(image), std::move(content));
        }
    }

    void add(ModelImage image, Result<std::unique_ptr<HeldBytes>> content) {
        ByteSpan bytes;
        if (content)
            bytes = source_->hold(std::move(*content));
        else
            image.error = content.error();
        image.bytes = bytes.size();
        model_.images.push_back(std::move(image));
        model_.contents.push_back(bytes);
    }

    Result<std::unique_ptr<HeldBytes>> embedded_bytes(const aiTexture& texture,
                                                      ModelImage& image) const {
        image.source = texture.mHeight == 0 ? ImageSource::embedded : ImageSource::raw_pixels;
        image.name = texture.mFilename.C_Str();
        if (texture.pcData == nullptr)
            return fail(ErrorKind::malformed, "the embedded texture has no bytes");
        if (texture.mHeight == 0) {
            const auto* bytes = reinterpret_cast<const std::byte*>(texture.pcData);
            return std::make_unique<HeldBytes>(
                std::vector<std::byte>(bytes, bytes + texture.mWidth));
        }
        YL_TRY(std::vector<std::byte> png, png_of(texture, options_.limits));
        return std::make_unique<HeldBytes>(std::move(png));
    }

    Result<std::unique_ptr<HeldBytes>> file_bytes(ModelImage& image) {
        auto found = find_file(image.uri, folder_, options_.allow_outside);
        if (!found)
            return fail_at(found.error(), image.uri);
        image.file = found->file;
        if (found->by == FoundBy::other_case)
            model_.findings.push_back(
                {"file-by-other-case",
                 fmt::format("'{}' is {} on disk: the same but for upper and lower case", image.uri,
                             found->file.filename().string()),
                 "rename one of them: other systems tell them apart", FindingLevel::hint});
        if (found->by == FoundBy::last_parts)
            model_.findings.push_back(
                {"file-by-last-parts",
                 fmt::format("'{}' is a path of another place; {} was taken instead", image.uri,
                             found->file.string()),
                 "store the path relative to the model", FindingLevel::hint});
        return open_bytes(found->file, options_.limits);
    }

    std::shared_ptr<ImportedSource> source_;
    const aiScene& scene_;
    std::filesystem::path folder_;
    const ModelReadOptions& options_;
    Model model_ = {};
    std::map<std::string, std::size_t> places_ = {};
    std::size_t count_ = 0;
};

bool looks_like_gltf(const std::filesystem::path& path) {
    const std::string ending = path.extension().string();
    return ending == ".gltf" || ending == ".glb" || ending == ".GLTF" || ending == ".GLB";
}

}  // namespace

namespace {

/// Whether a file is there to be read by Assimp, and not too large.
Status check_file(const std::filesystem::path& path, const ModelReadOptions& options) {
    if (options.files != nullptr)
        return fail_at(
            {ErrorKind::usage, "models of other formats than glTF are read from the disk alone"},
            path.string());
    std::error_code error;
    const auto size = std::filesystem::file_size(path, error);
    // Assimp would wait for ever for what comes out of a pipe.
    if (std::filesystem::exists(path) && !std::filesystem::is_regular_file(path))
        return fail_at({ErrorKind::io, std::filesystem::is_directory(path)
                                           ? "is a folder, not a file"
                                           : "is a pipe or a device, not a file"},
                       path.string());
    if (error)
        return fail_at({file_error_kind(error.value()), "cannot open: " + error.message()},
                       path.string());
    if (size > options.limits.max_bytes)
        return fail_at({ErrorKind::limit, fmt::format("{} bytes exceed the limit of {}", size,
                                                      options.limits.max_bytes)},
                       path.string());
    return {};
}

/// glTF by this library; nothing for what Assimp reads, glTF 1.0 among it.
std::optional<Result<Model>> read_gltf(const std::filesystem::path& path,
                                       const ModelReadOptions& options) {
    if (!looks_like_gltf(path))
        return std::nullopt;
    auto model = read_model(path, options);
    if (!model && model.error().kind == ErrorKind::unsupported)
        return std::nullopt;
    return model;
}

Result<Model> import_model(const std::filesystem::path& path, const ModelReadOptions& options) {
    YL_TRY(auto source, ImportedSource::open(path, options));
    return ImportedReader(std::move(source), path, options).read();
}

}  // namespace

Result<Model> read_any_model(const std::filesystem::path& path,
                             const ModelReadOptions& options) try {
    if (auto model = read_gltf(path, options))
        return std::move(*model);
    YL_CHECK(check_file(path, options));
    return import_model(path, options);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Model> read_untrusted_model(const std::filesystem::path& path,
                                   const ModelReadOptions& options,
                                   const ImportLimits& limits) try {
    if (auto model = read_gltf(path, options))
        return std::move(*model);
    YL_CHECK(check_file(path, options));
    YL_CHECK(try_in_child(path, options, limits));
    return import_model(path, options);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::model
