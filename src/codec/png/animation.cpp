// Animated PNG (PNG, third edition, section 11.3.6): frames that are images of their own, drawn onto
// a canvas.
//
//   acTL  number of frames (32)  plays (32)
//   fcTL  sequence (32)  width (32)  height (32)  x (32)  y (32)
//         delay: numerator (16)  denominator (16)  disposal (8)  blending (8)
//   fdAT  sequence (32), then what IDAT would hold
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "codec/animation.hpp"
#include "codec/png/chunks.hpp"
#include "codec/png/png.hpp"

namespace yl::png {
namespace {

constexpr std::size_t max_frames = 65536;
constexpr std::size_t control_bytes = 26;

struct StoredFrame {
    std::uint32_t width = 0, height = 0, x = 0, y = 0;
    double seconds = 0;
    std::uint8_t disposal = 0;
    bool replaces = true;
    std::vector<ByteSpan> data = {};
};

struct Animation {
    Chunk header = {};
    std::vector<Chunk> shared = {};  ///< palette, transparency, colours ...
    std::vector<StoredFrame> frames = {};
    std::uint32_t plays = 0;
    bool is_animated = false;
};

template <class T>
T big(ByteSpan bytes, std::size_t at) {
    return load<T, std::endian::big>(bytes.data() + at);
}

Result<StoredFrame> frame_of(const Chunk& chunk) {
    if (chunk.data.size() != control_bytes)
        return fail(ErrorKind::malformed, "a frame's control chunk of the wrong length",
                    chunk.offset);
    StoredFrame frame;
    frame.width = big<std::uint32_t>(chunk.data, 4);
    frame.height = big<std::uint32_t>(chunk.data, 8);
    frame.x = big<std::uint32_t>(chunk.data, 12);
    frame.y = big<std::uint32_t>(chunk.data, 16);
    const auto below = big<std::uint16_t>(chunk.data, 22);
    frame.seconds =
        static_cast<double>(big<std::uint16_t>(chunk.data, 20)) / (below == 0 ? 100 : below);
    frame.disposal = std::to_integer<std::uint8_t>(chunk.data[24]);
    frame.replaces = chunk.data[25] == std::byte{0};
    return frame;
}

Result<Animation> parse(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_CHECK(reader.skip(signature.size()));
    Animation animation;
    YL_TRY(animation.header, read_chunk(reader));
    bool has_data = false;
    while (reader.left() > 0) {
        YL_TRY(const Chunk chunk, read_chunk(reader));
        if (chunk.type == chunk_type("IEND"))
            break;
        if (chunk.type == chunk_type("acTL") && chunk.data.size() == 8) {
            animation.is_animated = true;
            animation.plays = big<std::uint32_t>(chunk.data, 4);
        } else if (chunk.type == chunk_type("fcTL")) {
            if (animation.frames.size() == max_frames)
                return fail(ErrorKind::limit, fmt::format("more than {} frames", max_frames));
            YL_TRY(StoredFrame frame, frame_of(chunk));
            animation.frames.push_back(std::move(frame));
        } else if (chunk.type == chunk_type("IDAT")) {
            has_data = true;
            // The image of a plain reader may be no frame.
            if (!animation.frames.empty())
                animation.frames.back().data.push_back(chunk.data);
        } else if (chunk.type == chunk_type("fdAT")) {
            if (!animation.frames.empty() && chunk.data.size() >= 4)
                animation.frames.back().data.push_back(chunk.data.subspan(4));
        } else if (!has_data) {
            animation.shared.push_back(chunk);
        }
    }
    return animation;
}

/// The frame as a file of its own.
std::vector<std::byte> file_of(const Animation& animation, const StoredFrame& frame) {
    ByteWriter writer;
    writer.append(std::as_bytes(std::span(signature)));
    std::vector<std::byte> header(animation.header.data.begin(), animation.header.data.end());
    store<std::uint32_t, std::endian::big>(header.data(), frame.width);
    store<std::uint32_t, std::endian::big>(header.data() + 4, frame.height);
    write_chunk(writer, chunk_type("IHDR"), header);
    for (const Chunk& chunk : animation.shared)
        write_chunk(writer, chunk.type, chunk.data);
    for (const ByteSpan data : frame.data)
        write_chunk(writer, chunk_type("IDAT"), data);
    write_chunk(writer, chunk_type("IEND"), {});
    return writer.release();
}

Disposal disposal_of(std::uint8_t number) {
    return number == 1 ? Disposal::clear : number == 2 ? Disposal::previous : Disposal::keep;
}

}  // namespace

Result<PictureFrames> read_frames(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(const Animation animation, parse(bytes));
    PictureFrames frames;
    frames.plays = animation.plays;
    if (!animation.is_animated || animation.frames.empty()) {
        YL_TRY(Picture picture, read(bytes, options));
        frames.pictures.push_back(std::move(picture));
        return frames;
    }
    YL_TRY(const Header header, parse_header(animation.header));
    ReadOptions each = options;
    each.widen_to_rgba = true;
    each.apply_orientation = false;
    each.progress = {};
    std::optional<Canvas> canvas;
    for (const StoredFrame& stored : animation.frames) {
        YL_TRY(Picture picture, read(file_of(animation, stored), each));
        if (!canvas) {
            YL_TRY(canvas, Canvas::create(header.width, header.height, picture.image.format(),
                                          animation.frames.size(), options.limits));
        }
        const bool is_first = frames.pictures.empty();
        const Frame frame = {
            std::as_const(picture.image).view(), stored.x, stored.y, stored.replaces,
            // There is nothing before the first frame to go back to.
            is_first && stored.disposal == 2 ? Disposal::clear : disposal_of(stored.disposal),
            stored.seconds};
        YL_CHECK(canvas->show(frame, frames));
        Picture& whole = frames.pictures.back();
        whole.info = std::move(picture.info);
        whole.transfer = picture.transfer;
    }
    return frames;
}

}  // namespace yl::png
