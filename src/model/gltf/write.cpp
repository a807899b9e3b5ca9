// A glTF model again, with its images inside and baked.
#include <algorithm>
#include <set>

#include <yl/model_bake.hpp>
#include <yl/picture.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "base/progress.hpp"
#include "model/bindings.hpp"
#include "model/gltf/source.hpp"
#include "model/make_textures.hpp"
#include "model/uri.hpp"

namespace yl::model {
namespace {

constexpr std::size_t piece_alignment = 16;

bool is_png(ByteSpan bytes) {
    return bytes.size() > 8 && load<std::uint32_t, std::endian::big>(bytes.data()) == 0x89504E47;
}

bool is_jpeg(ByteSpan bytes) {
    return bytes.size() > 3 && load<std::uint16_t, std::endian::big>(bytes.data()) == 0xFFD8;
}

/// A picture that every glTF program reads.
Result<std::vector<std::byte>> as_png(ByteSpan bytes, const Model& model) {
    YL_TRY(const Picture picture,
           read_picture(bytes, {.limits = model.limits, .further_readers = model.further_readers}));
    YL_TRY(const Picture fitted, fitted_to("png", picture));
    return encode_picture("png", fitted.image.view(), {.transfer = fitted.transfer});
}

/// RGBA of 8 bits with all levels.
std::uint64_t plain_bytes(std::uint32_t width, std::uint32_t height) {
    const TextureShape plain{.format = Format::rgba8_srgb,
                             .width = width,
                             .height = height,
                             .levels = full_level_count(width, height)};
    return plain.total_bytes();
}

struct MadePicture {
    std::vector<std::byte> bytes = {};
    std::optional<Error> error = {};
};

struct MadeFile {
    MadeTexture made = {};                   ///< without the texture itself
    std::optional<TextureShape> shape = {};  ///< if one was made
    std::vector<std::byte> bytes = {};
};

/// Whether an image that cannot be read is one that the model lacks, or that is damaged: something
/// to leave out. What the system cannot do now ends the work, and the file that is there stays.
bool can_be_left_out(const Error& error) {
    const bool is_systems = is_file_error(error.kind) && error.kind != ErrorKind::missing;
    return !is_systems && error.kind != ErrorKind::memory && error.kind != ErrorKind::cancelled;
}

class ModelWriter {
 public:
    ModelWriter(const Model& model, std::shared_ptr<const GltfSource> source,
                const ModelBakeOptions& options, const std::filesystem::path& output)
        : model_(model),
          source_(std::move(source)),
          options_(options),
          output_(output),
          json_(source_->json()),
          buffers_(source_->json(), source_->container(), source_->folder(), source_->options()) {}

    Result<ModelBakeReport> write() {
        YL_CHECK(check_lists());
        YL_CHECK(check_not_baked());
        report_.file_bytes_before = source_->file_bytes();
        YL_CHECK(bring_buffers());
        YL_CHECK(bring_images());
        if (!options_.keep_pictures)
            YL_CHECK(bring_textures());
        if (json_.contains("buffers") || at_ > 0)
            first_buffer()["byteLength"] = at_;
        YL_CHECK(write_container(output_, json_.dump(), pieces_));
        std::error_code ignored;
        report_.file_bytes_after = std::filesystem::file_size(output_, ignored);
        return std::move(report_);
    }

 private:
    /// What will be written to has to be what it should be; readers let pass what they do not need.
    Status check_lists() const {
        for (const char* key : {"buffers", "bufferViews", "images", "textures", "extensionsUsed"})
            if (!member(json_, key).is_null() && !member(json_, key).is_array())
                return fail(ErrorKind::malformed, fmt::format("'{}' is not a list", key));
        for (const Json& texture : list_of(json_, "textures"))
            if (!member(texture, "extensions").is_null() &&
                !member(texture, "extensions").is_object())
                return fail(ErrorKind::malformed, "a texture's 'extensions' are not an object");
        return {};
    }

    Status check_not_baked() const {
        for (const Json& texture : list_of(json_, "textures"))
            if (!member(member(texture, "extensions"), baked_extension.data()).is_null())
                return fail(ErrorKind::usage,
                            "the model has been baked already: bake the one it was made from");
        return {};
    }

    /// Adds bytes to the binary chunk; gives the offset.
    std::uint64_t add_piece(ByteSpan bytes) {
        static constexpr std::array<std::byte, piece_alignment> zeros{};
        const std::uint64_t padding = (piece_alignment - at_ % piece_alignment) % piece_alignment;
        pieces_.push_back(ByteSpan(zeros).first(padding));
        pieces_.push_back(bytes);
        const std::uint64_t begin = at_ + padding;
        at_ = begin + bytes.size();
        return begin;
    }

    std::size_t add_view(ByteSpan bytes) {
        const std::uint64_t offset = add_piece(bytes);
        list_in(json_, "bufferViews")
            .push_back({{"buffer", 0}, {"byteOffset", offset}, {"byteLength", bytes.size()}});
        return json_["bufferViews"].size() - 1;
    }

    /// The first buffer begins the binary chunk. Others stay what they are, but a file that would
    /// not be found from the new place comes in as data.
    Status bring_buffers() {
        for (std::size_t i = 0; i < count_of(json_, "buffers"); ++i) {
            const std::string uri = text_of(json_["buffers"][i], "uri");
            const bool is_file = !uri.empty() && !is_data_uri(uri);
            if (i > 0 && !is_file)
                continue;
            YL_TRY(const ByteSpan bytes, buffers_.buffer(i));
            if (is_file)
                report_.file_bytes_before += bytes.size();
            if (i == 0) {
                add_piece(bytes);
                json_["buffers"][0].erase("uri");
            } else if (!is_same_folder()) {
                json_["buffers"][i]["uri"] = encode_data_uri("application/octet-stream", bytes);
            }
        }
        return {};
    }

    bool is_same_folder() const {
        std::error_code error;
        const auto here = std::filesystem::weakly_canonical(
            std::filesystem::absolute(source_->folder() / "x"), error);
        const auto there = std::filesystem::weakly_canonical(
            std::filesystem::absolute(output_).replace_filename("x"), error);
        return here == there;
    }

    /// All images come into the file; what is neither PNG nor JPEG becomes PNG.
    Status bring_images() {
        std::vector<MadePicture>& converted = images_;
        converted.resize(model_.images.size());
        parallel_each(converted.size(), [&](std::size_t i) {
            const ByteSpan content = model_.contents[i];
            if (model_.images[i].error || is_png(content) || is_jpeg(content) ||
                looks_like_texture(content))
                return;
            auto png = as_png(content, model_);
            if (png)
                converted[i].bytes = std::move(*png);
            else
                converted[i].error = png.error();
        });
        std::map<std::filesystem::path, std::uint64_t> files;
        for (std::size_t i = 0; i < converted.size(); ++i) {
            const ModelImage& image = model_.images[i];
            const auto& error = image.error ? image.error : converted[i].error;
            if (error && !can_be_left_out(*error))
                return tl::unexpected(*error);
            if (error) {
                report_.findings.push_back(
                    {"image-left",
                     fmt::format("image {} is left as it was: {}", i, error->sentence()),
                     "add the file, and bake again"});
                continue;
            }
            if (image.source == ImageSource::file)
                files[image.file] = image.bytes;
            bring_image(i, converted[i].bytes);
        }
        for (const auto& [file, bytes] : files)
            report_.file_bytes_before += bytes;
        return {};
    }

    void bring_image(std::size_t index, ByteSpan converted) {
        Json& entry = json_["images"][index];
        if (model_.images[index].source == ImageSource::buffer_view && converted.empty())
            return;
        const ByteSpan bytes = converted.empty() ? model_.contents[index] : converted;
        entry.erase("uri");
        const auto twin = model_.images[index].same_as;
        entry["bufferView"] = twin ? json_["images"][*twin]["bufferView"] : Json(add_view(bytes));
        const bool is_dds = model_.images[index].file_format == "DDS";
        entry["mimeType"] = is_dds                      ? "image/vnd-ms.dds"
                            : looks_like_texture(bytes) ? "image/ktx2"
                            : is_jpeg(bytes)            ? "image/jpeg"
                                                        : "image/png";
    }

    Status bring_textures() {
        const TextureBindings bindings = bindings_of(model_);
        textures_.resize(bindings.textures.size());
        ProgressCounter progress(options_.progress, Phase::textures, textures_.size());
        parallel_each(textures_.size(), [&](std::size_t i) {
            if (progress.cancelled())
                return;
            textures_[i] = make_file(bindings.textures[i]);
            progress.add(1);
        });
        YL_CHECK(progress.finish());
        for (const MadeFile& file : textures_)
            if (file.made.error && !can_be_left_out(*file.made.error))
                return tl::unexpected(*file.made.error);
        std::vector<std::optional<std::size_t>> places(textures_.size());
        for (std::size_t i = 0; i < places.size(); ++i)
            places[i] = add_texture(bindings.textures[i], textures_[i]);
        for (std::size_t m = 0; m < bindings.materials.size(); ++m)
            for (std::size_t b = 0; b < bindings.materials[m].size(); ++b) {
                const std::size_t needed = bindings.materials[m][b].texture;
                if (places[needed])
                    name_baked(model_.materials[m].textures[b].texture, bindings.textures[needed],
                               *places[needed]);
            }
        return {};
    }

    /// Of each texture just the file stays in memory.
    [[nodiscard]] MadeFile make_file(const NeededTexture& needed) const {
        MadeFile file;
        file.made = make_texture(model_, needed, options_.bake);
        if (!file.made.texture)
            return file;
        file.shape = file.made.texture->shape();
        if (!is_texture_already(needed)) {
            auto bytes = texture_file_bytes("ktx2", *file.made.texture, options_.write);
            if (bytes)
                file.bytes = std::move(*bytes);
            else
                file.made.error = bytes.error();
        }
        file.made.texture.reset();
        return file;
    }

    [[nodiscard]] bool is_texture_already(const NeededTexture& needed) const {
        return needed.image && looks_like_texture(model_.contents[*needed.image]);
    }

    /// The new image's number, if there is one.
    std::optional<std::size_t> add_texture(const NeededTexture& needed, const MadeFile& file) {
        const MadeTexture& made = file.made;
        BakedTexture& baked = report_.textures.emplace_back();
        baked.needed = needed;
        baked.error = made.error;
        const bool is_said = needed.image && model_.images[*needed.image].error;
        if (made.error && !is_said)
            report_.findings.push_back(
                {"texture-not-baked",
                 fmt::format("{} has not been baked: {}", needed.label, made.error->sentence()),
                 "mend the picture; it is in the new file as it was"});
        if (!file.shape)
            return std::nullopt;
        baked.shape = *file.shape;
        baked.format = baked.shape.format;
        baked.picture_file_bytes = model_.images[*needed.image].bytes;
        baked.texture_file_bytes = file.bytes.size();
        baked.plain_device_bytes = plain_bytes(made.picture_width, made.picture_height);
        baked.device_bytes = baked.shape.total_bytes();
        // What is only assumed of pictures is settled by glTF: colours are sRGB.
        for (const Finding& finding : made.findings)
            if (finding.level != FindingLevel::hint)
                report_.findings.push_back({finding.code, needed.label + ": " + finding.problem,
                                            finding.remedy, finding.level});
        if (file.bytes.empty())
            return std::nullopt;
        list_in(json_, "images")
            .push_back({{"name", needed.label},
                        {"mimeType", "image/ktx2"},
                        {"bufferView", add_view(file.bytes)}});
        return json_["images"].size() - 1;
    }

    Json& first_buffer() {
        Json& buffers = list_in(json_, "buffers");
        if (buffers.empty())
            buffers.push_back(Json::object());
        return buffers[0];
    }

    void name_baked(std::size_t texture, const NeededTexture& needed, std::size_t image) {
        Json source = {{"source", image}, {"role", info(needed.role).name}};
        if (needed.cutoff)
            source["cutoff"] = *needed.cutoff;
        if (const auto word = alpha_word(needed.role, needed.alpha); !word.empty())
            source["alpha"] = word;
        Json& extensions = object_in(json_["textures"][texture], "extensions");
        Json& sources = list_in(object_in(extensions, baked_extension.data()), "sources");
        if (std::ranges::find(sources, source) == sources.end())
            sources.push_back(source);
        Json& used = list_in(json_, "extensionsUsed");
        if (std::ranges::find(used, Json(baked_extension)) == used.end())
            used.push_back(baked_extension);
    }

    const Model& model_;
    std::shared_ptr<const GltfSource> source_;
    const ModelBakeOptions& options_;
    const std::filesystem::path& output_;
    Json json_;
    Buffers buffers_;
    std::vector<ByteSpan> pieces_ = {};
    std::uint64_t at_ = 0;
    std::vector<MadePicture> images_ = {};  ///< hold what the pieces point to, as do
    std::vector<MadeFile> textures_ = {};
    ModelBakeReport report_ = {};
};

}  // namespace

Result<ModelBakeReport> bake_model(const Model& model, const std::filesystem::path& output,
                                   const ModelBakeOptions& options) try {
    auto source = std::dynamic_pointer_cast<const GltfSource>(model.source);
    if (!source)
        return fail(ErrorKind::unsupported, "only glTF models can be written again");
    if (output.extension() != ".glb")
        return fail_at({ErrorKind::usage, "the model is written as one .glb file: name it so"},
                       output.string());
    return ModelWriter(model, std::move(source), options, output).write();
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::model
