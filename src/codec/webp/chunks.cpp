#include "codec/webp/chunks.hpp"

#include <fmt/format.h>

#include <yl/status_macros.hpp>
#include "codec/exif.hpp"
#include "codec/webp/lossless.hpp"
#include "codec/webp/lossy.hpp"

namespace yl::webp {
namespace {

constexpr std::size_t file_header = 12, chunk_header = 8;
constexpr std::size_t max_frames = 65536;

std::uint32_t load24(const std::byte* at) {
    return load<std::uint16_t>(at) | std::to_integer<std::uint32_t>(at[2]) << 16U;
}

struct Chunk {
    std::string_view name{};
    ByteSpan content{};
    std::size_t offset = 0;
    bool is_cut = false;  ///< content is missing at its end
};

/// Chunks one after the other, until there is no more of them.
class Chunks {
 public:
    Chunks(ByteSpan bytes, std::size_t offset) : bytes_(bytes), offset_(offset) {}

    [[nodiscard]] std::optional<Chunk> next() {
        if (bytes_.size() < chunk_header)
            return std::nullopt;
        const std::size_t size = load<std::uint32_t>(bytes_.data() + 4);
        const std::size_t there = std::min(size, bytes_.size() - chunk_header);
        Chunk chunk{as_text(bytes_.first(4)), bytes_.subspan(chunk_header, there), offset_,
                    there < size};
        const std::size_t all = std::min(chunk_header + size + size % 2, bytes_.size());
        bytes_ = bytes_.subspan(all);
        offset_ += all;
        return chunk;
    }

 private:
    ByteSpan bytes_;
    std::size_t offset_;
};

class Parser {
 public:
    explicit Parser(bool is_strict) : is_strict_(is_strict) {}

    Result<WebpFile> run(ByteSpan bytes) {
        Chunks chunks(bytes.subspan(file_header), file_header);
        while (const auto chunk = chunks.next()) {
            is_cut_ = chunk->is_cut;
            YL_CHECK(take(*chunk));
        }
        if (is_strict_ && is_waiting())
            return fail(ErrorKind::malformed, "the file ends before all of its chunks",
                        bytes.size());
        return finished();
    }

 private:
    /// Whether something that was announced is still to come.
    [[nodiscard]] bool is_waiting() const {
        return (has_exif_ && !seen_exif_) || file_.frames.empty();
    }

    Status take(const Chunk& chunk) {
        if (chunk.name == "VP8X")
            return take_features(chunk);
        if (chunk.name == "ICCP" && !chunk.is_cut)
            file_.profile = chunk.content;
        else if (chunk.name == "EXIF")
            take_exif(chunk);
        else if (chunk.name == "ANIM" && chunk.content.size() >= 6)
            file_.plays = load<std::uint16_t>(chunk.content.data() + 4);
        else if (chunk.name == "ANMF" && file_.is_animated)
            return take_frame(chunk);
        else if (!file_.is_animated && file_.frames.empty())
            return take_image(chunk, still_);
        return {};
    }

    ///   profile, EXIF, alpha ... (8)  reserved (24)  width - 1 (24)  height - 1 (24)
    Status take_features(const Chunk& chunk) {
        constexpr std::size_t length = 10;
        if (chunk.content.size() < length)
            return damaged("the chunk of features is too short", chunk);
        const auto flags = std::to_integer<unsigned>(chunk.content[0]);
        file_.is_animated = (flags & 0x02U) != 0;
        has_exif_ = (flags & 0x08U) != 0;
        file_.width = load24(chunk.content.data() + 4) + 1;
        file_.height = load24(chunk.content.data() + 7) + 1;
        return {};
    }

    void take_exif(const Chunk& chunk) {
        constexpr std::string_view prefix("Exif\0\0", 6);
        seen_exif_ = !chunk.is_cut;
        ByteSpan tiff = chunk.content;
        if (as_text(tiff).starts_with(prefix))
            tiff = tiff.subspan(prefix.size());
        file_.orientation = exif_orientation(tiff);
    }

    /// The chunk that holds pixels ends the image.
    Status take_image(const Chunk& chunk, StoredFrame& frame) {
        StoredImage& image = frame.image;
        if (chunk.name == "ALPH") {
            image.alpha = chunk.content;
            return {};
        }
        image.is_lossless = chunk.name == "VP8L";
        if (!image.is_lossless && chunk.name != "VP8 ")
            return {};
        if (image.is_lossless) {
            auto header = lossless_header(chunk.content);
            if (!header)
                return damaged(header.error().message, chunk);
            image.width = header->width;
            image.height = header->height;
            image.has_alpha = header->has_alpha;
        } else {
            auto header = lossy_header(chunk.content);
            if (!header)
                return damaged(header.error().message, chunk);
            image.width = header->width;
            image.height = header->height;
            image.has_alpha = !image.alpha.empty();
        }
        image.pixels = chunk.content;
        if (image.width == 0 || image.height == 0)
            return damaged("pixels of no size", chunk);
        file_.frames.push_back(frame);
        return {};
    }

    ///   x / 2 (24)  y / 2 (24)  width - 1 (24)  height - 1 (24)  milliseconds (24)
    ///   becomes transparent afterwards (1)  replaces (1)  reserved (6), then chunks
    Status take_frame(const Chunk& chunk) {
        constexpr std::size_t length = 16;
        if (chunk.content.size() < length)
            return is_strict_ ? damaged("a frame ends before its header does", chunk) : Status();
        if (file_.frames.size() == max_frames)
            return fail(ErrorKind::limit, fmt::format("more than {} frames", max_frames));
        const std::byte* at = chunk.content.data();
        StoredFrame frame;
        frame.x = 2 * load24(at);
        frame.y = 2 * load24(at + 3);
        frame.seconds = load24(at + 12) / 1000.0;
        frame.is_cleared = (std::to_integer<unsigned>(at[15]) & 1U) != 0;
        frame.replaces = (std::to_integer<unsigned>(at[15]) & 2U) != 0;
        const std::size_t before = file_.frames.size();
        Chunks chunks(chunk.content.subspan(length), chunk.offset + chunk_header + length);
        for (auto inner = chunks.next(); inner && file_.frames.size() == before;
             inner = chunks.next())
            YL_CHECK(take_image(*inner, frame));
        if (is_strict_ && chunk.is_cut)
            return damaged("a frame is cut off", chunk);
        if (file_.frames.size() == before)
            return damaged("a frame without pixels", chunk);
        const StoredImage& image = file_.frames.back().image;
        if (image.width != load24(at + 6) + 1 || image.height != load24(at + 9) + 1)
            return damaged("a frame's pixels are not of its size", chunk);
        if (frame.x + image.width > file_.width || frame.y + image.height > file_.height)
            return damaged("a frame reaches beyond the picture", chunk);
        return {};
    }

    Result<WebpFile> finished() {
        if (file_.frames.empty())
            return fail(ErrorKind::malformed,
                        is_cut_ ? "the file ends before its pixels" : "the file has no pixels");
        const StoredImage& image = file_.frames[0].image;
        if (file_.width == 0) {
            file_.width = image.width;
            file_.height = image.height;
        }
        if (!file_.is_animated && (image.width != file_.width || image.height != file_.height))
            return fail(ErrorKind::malformed,
                        fmt::format("the pixels are {} x {}, but the picture is {} x {}",
                                    image.width, image.height, file_.width, file_.height));
        return std::move(file_);
    }

    static tl::unexpected<Error> damaged(std::string what, const Chunk& chunk) {
        return fail(ErrorKind::malformed, std::move(what), chunk.offset);
    }

    bool is_strict_;
    bool is_cut_ = false;  ///< the last chunk
    WebpFile file_{};
    StoredFrame still_{};
    bool has_exif_ = false, seen_exif_ = false;
};

}  // namespace

bool WebpFile::first_is_opaque() const {
    const StoredImage& image = frames[0].image;
    return !image.has_alpha && image.width == width && image.height == height;
}

bool recognise(ByteSpan bytes) {
    const std::string_view text = as_text(bytes);
    return text.size() >= file_header && text.starts_with("RIFF") && text.substr(8, 4) == "WEBP";
}

Result<WebpFile> parse(ByteSpan bytes, bool is_strict) {
    return Parser(is_strict).run(bytes);
}

}  // namespace yl::webp
