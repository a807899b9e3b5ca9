#include "mesh/gltf/source.hpp"

#include "base/attempt.hpp"

namespace yl::mesh {
namespace {

constexpr int greatest_depth = 64;  ///< of JSON; glTF itself needs about a dozen

/// Objects and lists one within the other, without parsing: what is too deep is no model, and
/// would take the stack of whoever walks through it.
bool is_too_deep(std::string_view json) {
    int depth = 0;
    bool is_text = false;
    for (std::size_t i = 0; i < json.size(); ++i) {
        const char c = json[i];
        if (is_text) {
            if (c == '\\')
                ++i;
            is_text = c != '"';
        } else if (c == '"') {
            is_text = true;
        } else if (c == '{' || c == '[') {
            if (++depth > greatest_depth)
                return true;
        } else if (c == '}' || c == ']') {
            --depth;
        }
    }
    return false;
}

}  // namespace

Result<std::shared_ptr<GltfSource>> GltfSource::open(std::unique_ptr<HeldBytes> file,
                                                     const std::filesystem::path& folder,
                                                     const ModelReadOptions& options) {
    std::shared_ptr<GltfSource> source(new GltfSource());
    source->file_ = std::move(file);
    source->folder_ = folder;
    source->options_ = options;
    YL_TRY(source->container_, split_container(source->file_->bytes()));
    const std::string_view text = as_text(source->container_.json);
    if (is_too_deep(text))
        return fail(ErrorKind::malformed,
                    fmt::format("the JSON has more than {} levels", greatest_depth));
    source->json_ = Json::parse(text, nullptr, false);
    if (source->json_.is_discarded() || !source->json_.is_object())
        return fail(ErrorKind::malformed, "this is neither a .glb file nor JSON of glTF");
    source->buffers_.emplace(source->json_, source->container_, source->folder_, source->options_);
    return source;
}

ByteSpan GltfSource::hold(std::unique_ptr<HeldBytes> image) {
    images_.push_back(std::move(image));
    return images_.back()->bytes();
}

}  // namespace yl::mesh
