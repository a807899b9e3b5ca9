// Texture files that arrive in ranges: the header first, then the levels that are asked for.
#include <algorithm>
#include <array>

#include "request.hpp"

namespace yl::web {

/// Says which range it lacks where it is asked for one that has not arrived.
class PartialFile {
 public:
    explicit PartialFile(std::uint64_t size) : size_(size) {}

    [[nodiscard]] std::uint64_t size() const { return size_; }

    void provide(std::uint64_t offset, std::span<const std::byte> bytes) {
        ranges_[offset] = {bytes.begin(), bytes.end()};
    }

    [[nodiscard]] Status read_at(std::uint64_t offset, std::span<std::byte> to) {
        if (offset > size_ || to.size() > size_ - offset)
            return fail(ErrorKind::malformed,
                        fmt::format("the file ends early: {} bytes at {} were asked of {}",
                                    to.size(), offset, size_));
        while (!to.empty()) {
            auto range = ranges_.upper_bound(offset);
            if (range == ranges_.begin())
                return lacks(offset, to.size());
            --range;
            const std::uint64_t skipped = offset - range->first;
            if (skipped >= range->second.size())
                return lacks(offset, to.size());
            const std::size_t count =
                std::min<std::uint64_t>(to.size(), range->second.size() - skipped);
            std::copy_n(range->second.begin() + static_cast<std::ptrdiff_t>(skipped), count,
                        to.begin());
            to = to.subspan(count);
            offset += count;
        }
        return {};
    }

    /// Forgets the ranges; levels that were read are with the texture.
    void forget() { ranges_.clear(); }

    [[nodiscard]] const std::optional<std::array<std::uint64_t, 2>>& lacking() const {
        return lacking_;
    }
    void begin() { lacking_.reset(); }

 private:
    Status lacks(std::uint64_t offset, std::uint64_t length) {
        lacking_ = {offset, length};
        return fail(ErrorKind::missing, "that part of the file has not arrived");
    }

    std::uint64_t size_;
    std::map<std::uint64_t, std::vector<std::byte>> ranges_ = {};
    std::optional<std::array<std::uint64_t, 2>> lacking_ = {};
};

namespace {

class OpenPartial final : public File {
 public:
    explicit OpenPartial(std::shared_ptr<PartialFile> file) : file_(std::move(file)) {}
    [[nodiscard]] std::uint64_t size() const override { return file_->size(); }
    [[nodiscard]] Status read_at(std::uint64_t offset, std::span<std::byte> to) const override {
        return file_->read_at(offset, to);
    }

 private:
    std::shared_ptr<PartialFile> file_;
};

class PartialFiles final : public Files {
 public:
    explicit PartialFiles(std::shared_ptr<PartialFile> file) : file_(std::move(file)) {}
    [[nodiscard]] Result<std::unique_ptr<File>> open(const std::filesystem::path&) const override {
        return std::make_unique<OpenPartial>(file_);
    }
    [[nodiscard]] Result<std::vector<std::string>> list() const override {
        return std::vector<std::string>{"texture"};
    }

 private:
    std::shared_ptr<PartialFile> file_;
};

/// What a failed attempt needs, or its error.
Result<Json> needs_or_error(const StreamedFile& streamed, const Error& error) {
    if (const auto& lacking = streamed.file->lacking())
        return Json{{"needs", *lacking}};
    return tl::unexpected(error);
}

/// Begins with a file of `size` bytes, of which nothing has arrived.
Result<Json> begin(Objects& objects, const Json& request) {
    YL_TRY(const std::uint32_t size, number(request, "size"));
    StreamedFile streamed;
    streamed.file = std::make_shared<PartialFile>(size);
    return Json{{"stream", objects.keep(std::move(streamed))}};
}

Result<Json> provide(Objects& objects, const Json& request) {
    YL_TRY(StreamedFile * streamed, object<StreamedFile>(objects, request, "stream"));
    YL_TRY(const std::uint32_t offset, number(request, "offset"));
    YL_TRY(const auto bytes, memory(request, "bytes"));
    streamed->file->provide(offset, bytes);
    return Json::object();
}

/// The header: what the file holds, or {"needs": [offset, length]}.
Result<Json> open(Objects& objects, const Json& request) {
    YL_TRY(StreamedFile * streamed, object<StreamedFile>(objects, request, "stream"));
    TextureReadOptions options;
    YL_TRY(options.role, role_of(request));
    YL_TRY(options.transfer, transfer_of(request));
    options.files = std::make_shared<PartialFiles>(streamed->file);
    streamed->file->begin();
    auto opened = TextureStream::open("texture", options, FileAccess::on_demand);
    if (!opened)
        return needs_or_error(*streamed, opened.error());
    streamed->stream = std::move(*opened);
    return Json{{"shape", to_json(streamed->stream->shape())},
                {"metadata", to_json(streamed->stream->metadata())},
                {"file", to_json(streamed->stream->info())}};
}

/// The levels from `first_level` on as a texture, or what is needed for them. Levels above are not
/// read.
Result<Json> read(Objects& objects, const Json& request) {
    YL_TRY(StreamedFile * streamed, object<StreamedFile>(objects, request, "stream"));
    YL_TRY(const std::uint32_t first, number_or(request, "first_level", 0));
    if (!streamed->stream)
        return fail(ErrorKind::usage, "the stream has not been opened");
    streamed->file->begin();
    auto texture = streamed->stream->read_all(first);
    if (!texture)
        return needs_or_error(*streamed, texture.error());
    return kept(objects, std::move(*texture));
}

constexpr NamedCall calls[] = {{"begin_stream", begin, "size"},
                               {"provide", provide, "stream offset bytes"},
                               {"open_stream", open, "stream role transfer"},
                               {"read_stream", read, "stream first_level"}};

}  // namespace

std::span<const NamedCall> stream_calls() {
    return calls;
}

}  // namespace yl::web
