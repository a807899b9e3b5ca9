#include "model/gltf/source.hpp"

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"

namespace yl::model {
namespace {

constexpr int max_depth = 64;  ///< of JSON; glTF itself needs about a dozen

/// The end of a text that begins after a quotation mark: that of the next mark that counts.
std::size_t end_of_text(std::string_view json, std::size_t begin) {
    for (std::size_t mark = json.find('"', begin); mark < json.size();
         mark = json.find('"', mark + 1)) {
        std::size_t slashes = 0;
        while (mark - slashes > begin && json[mark - slashes - 1] == '\\')
            ++slashes;
        if (slashes % 2 == 0)
            return mark;
    }
    return json.size();
}

/// Without parsing: objects and lists one within the other, which would take the stack of whoever
/// walks through them, and texts so long that a parser's copies would take the memory.
Status check_text(std::string_view json, std::uint64_t most_characters) {
    int depth = 0;
    for (std::size_t i = 0; i < json.size(); ++i) {
        const char c = json[i];
        if (c == '"') {
            const std::size_t end = end_of_text(json, i + 1);
            if (end - i > most_characters)
                return fail(ErrorKind::limit,
                            fmt::format("a text of {} characters, such as a data URI, exceeds the "
                                        "limit of {}",
                                        end - i - 1, most_characters),
                            i);
            i = end;
        } else if (c == '{' || c == '[') {
            if (++depth > max_depth)
                return fail(ErrorKind::malformed,
                            fmt::format("the JSON has more than {} levels", max_depth), i);
        } else if (c == '}' || c == ']') {
            --depth;
        }
    }
    return {};
}

}  // namespace

Result<std::shared_ptr<GltfSource>> GltfSource::open(std::unique_ptr<HeldBytes> file,
                                                     const std::filesystem::path& folder,
                                                     const ModelReadOptions& options) try {
    std::shared_ptr<GltfSource> source(new GltfSource());
    source->file_ = std::move(file);
    source->folder_ = folder;
    source->options_ = options;
    YL_TRY(source->container_, split_container(source->file_->bytes()));
    const std::string_view text = as_text(source->container_.json);
    // Base64 takes four characters for three bytes; the rest is for what stands before them.
    const std::uint64_t most = std::min(options.max_data_uri, std::uint64_t{1} << 60);
    auto checked = check_text(text, most / 3 * 4 + 4096);
    if (!checked) {
        *checked.error().offset += static_cast<std::uint64_t>(source->container_.json.data() -
                                                              source->file_->bytes().data());
        return tl::unexpected(checked.error());
    }
    source->json_ = Json::parse(text, nullptr, false);
    if (source->json_.is_discarded() || !source->json_.is_object())
        return fail(ErrorKind::malformed, "this is neither a .glb file nor JSON of glTF");
    source->buffers_.emplace(source->json_, source->container_, source->folder_, source->options_);
    return source;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

ByteSpan GltfSource::hold(std::unique_ptr<HeldBytes> image) {
    images_.push_back(std::move(image));
    return images_.back()->bytes();
}

}  // namespace yl::model
