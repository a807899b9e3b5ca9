// GIF (CompuServe, "Graphics Interchange Format", versions 87a and 89a).
//
//   "GIF87a" or "GIF89a"  width (16)  height (16)  flags (8)  background (8)  aspect (8)
//   flags:  7 global colours   6 5 4 ...   2 1 0 their number is 2 to the power of this + 1
//
//   0x21 0xF9 4  flags (8)  delay in hundredths (16)  transparent index (8)  0
//        flags:  4 3 2 disposal   0 transparent
//   0x21 kind  blocks                      0x3B: the end
//   0x2C  left (16)  top (16)  width (16)  height (16)  flags (8)  colours  bits (8)  blocks
//         flags:  7 colours of its own   6 interlaced   2 1 0 their number
//   a block is its length (8) and its bytes; a block of no bytes ends them
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "codec/animation.hpp"
#include "codec/lzw.hpp"
#include "codec/picture_format.hpp"

namespace yl {
namespace {

constexpr std::uint8_t extension = 0x21, descriptor = 0x2C, trailer = 0x3B;
constexpr std::uint8_t graphic_control = 0xF9, application = 0xFF;
constexpr std::size_t max_frames = 65536;

using Color = std::array<std::byte, 3>;

struct Control {
    Disposal disposal = Disposal::keep;
    std::optional<std::uint8_t> transparent = {};
    double seconds = 0;
};

struct StoredFrame {
    std::uint16_t x = 0, y = 0, width = 0, height = 0;
    bool is_interlaced = false;
    std::vector<Color> colors = {};
    unsigned literal_bits = 8;
    Control control = {};
    std::vector<std::byte> packed = {};
};

struct Gif {
    std::uint16_t width = 0, height = 0;
    std::vector<StoredFrame> frames = {};
    std::uint32_t plays = 1;
    std::vector<std::string> remarks = {};

    [[nodiscard]] bool first_is_opaque() const {
        const StoredFrame& first = frames[0];
        return first.x == 0 && first.y == 0 && first.width == width && first.height == height &&
               !first.control.transparent;
    }
};

class GifParser {
 public:
    explicit GifParser(ByteSpan bytes) : reader_(bytes) {}

    /// As far as `most` frames. With `forgiving`, what is damaged after the first frame ends them.
    Result<Gif> run(std::size_t most, bool forgiving) {
        YL_CHECK(read_screen());
        bool is_at_end = false;
        while (gif_.frames.size() < most && !is_at_end) {
            const auto ended = read_block();
            if (ended) {
                is_at_end = *ended;
                continue;
            }
            if (!forgiving || gif_.frames.empty())
                return tl::unexpected(ended.error());
            gif_.remarks.push_back(fmt::format("damaged after {} frames: {}", gif_.frames.size(),
                                               ended.error().message));
            break;
        }
        if (gif_.frames.empty())
            return fail(ErrorKind::malformed, "the file has no frame", reader_.offset());
        return std::move(gif_);
    }

 private:
    Status read_screen() {
        YL_CHECK(reader_.skip(6));
        YL_TRY(gif_.width, reader_.read<std::uint16_t>());
        YL_TRY(gif_.height, reader_.read<std::uint16_t>());
        YL_TRY(const auto flags, reader_.read<std::uint8_t>());
        YL_CHECK(reader_.skip(2));
        YL_TRY(colors_, read_colors(flags));
        return {};
    }

    Result<std::vector<Color>> read_colors(std::uint8_t flags) {
        std::vector<Color> colors;
        if ((flags & 0x80U) == 0)
            return colors;
        colors.resize(std::size_t{2} << (flags & 7U));
        YL_TRY(const ByteSpan bytes, reader_.take(3 * colors.size()));
        for (std::size_t i = 0; i < colors.size(); ++i)
            std::copy_n(bytes.begin() + static_cast<std::ptrdiff_t>(3 * i), 3, colors[i].begin());
        return colors;
    }

    /// All blocks up to the empty one, as one.
    Result<std::vector<std::byte>> read_blocks() {
        std::vector<std::byte> all;
        for (;;) {
            YL_TRY(const auto size, reader_.read<std::uint8_t>());
            if (size == 0)
                return all;
            YL_TRY(const ByteSpan block, reader_.take(size));
            all.insert(all.end(), block.begin(), block.end());
        }
    }

    /// Gives whether it was the last one.
    Result<bool> read_block() {
        YL_TRY(const auto kind, reader_.read<std::uint8_t>());
        if (kind == trailer)
            return true;
        if (kind == extension)
            YL_CHECK(read_extension());
        else if (kind == descriptor)
            YL_CHECK(read_frame());
        else
            return fail(ErrorKind::malformed, fmt::format("a block of kind {}", kind),
                        reader_.offset() - 1);
        return false;
    }

    Status read_extension() {
        YL_TRY(const auto kind, reader_.read<std::uint8_t>());
        YL_TRY(const auto content, read_blocks());
        if (kind == graphic_control && content.size() >= 4) {
            const auto flags = std::to_integer<unsigned>(content[0]);
            const unsigned disposal = flags >> 2U & 7U;
            control_.disposal = disposal == 2   ? Disposal::clear
                                : disposal == 3 ? Disposal::previous
                                                : Disposal::keep;
            control_.seconds = load<std::uint16_t>(content.data() + 1) / 100.0;
            control_.transparent.reset();
            if ((flags & 1U) != 0)
                control_.transparent = std::to_integer<std::uint8_t>(content[3]);
        }
        const bool is_loop = kind == application && content.size() >= 14 &&
                             as_text(content).substr(0, 11) == "NETSCAPE2.0" &&
                             content[11] == std::byte{1};
        if (is_loop) {
            const std::uint32_t more = load<std::uint16_t>(content.data() + 12);
            gif_.plays = more == 0 ? 0 : more + 1;
        }
        return {};
    }

    Status read_frame() {
        StoredFrame frame;
        for (std::uint16_t* number : {&frame.x, &frame.y, &frame.width, &frame.height}) {
            YL_TRY(*number, reader_.read<std::uint16_t>());
        }
        YL_TRY(const auto flags, reader_.read<std::uint8_t>());
        frame.is_interlaced = (flags & 0x40U) != 0;
        YL_TRY(frame.colors, read_colors(flags));
        if (frame.colors.empty())
            frame.colors = colors_;
        YL_TRY(const auto bits, reader_.read<std::uint8_t>());
        if (bits < 1 || bits > 11)
            return fail(ErrorKind::malformed, fmt::format("codes that begin with {} bits", bits),
                        reader_.offset() - 1);
        frame.literal_bits = bits;
        YL_TRY(frame.packed, read_blocks());
        frame.control = control_;
        control_ = {};
        // The first frame may be larger than the screen that is stated.
        if (gif_.frames.empty()) {
            gif_.width = std::max<std::uint16_t>(
                gif_.width, static_cast<std::uint16_t>(std::min(frame.x + frame.width, 65535)));
            gif_.height = std::max<std::uint16_t>(
                gif_.height, static_cast<std::uint16_t>(std::min(frame.y + frame.height, 65535)));
        }
        gif_.frames.push_back(std::move(frame));
        return {};
    }

    ByteReader reader_;
    Gif gif_ = {};
    std::vector<Color> colors_ = {};
    Control control_ = {};
};

/// The row that the n-th stored one is: interlaced ones come in four passes.
std::uint32_t row_of(std::uint32_t stored, std::uint32_t height) {
    constexpr std::pair<std::uint32_t, std::uint32_t> passes[] = {{0, 8}, {4, 8}, {2, 4}, {1, 2}};
    for (const auto& [first, step] : passes) {
        const std::uint32_t rows = height > first ? (height - first + step - 1) / step : 0;
        if (stored < rows)
            return first + stored * step;
        stored -= rows;
    }
    return 0;
}

/// The frame's pixels; those that its data do not reach are transparent.
Result<Image> unpacked(const StoredFrame& frame, Format format, const Limits& limits,
                       std::vector<std::string>& remarks) {
    YL_TRY(Image image, Image::create(format, frame.width, frame.height, limits));
    const std::size_t count = std::size_t{frame.width} * frame.height;
    YL_TRY(Buffer indices, Buffer::allocate(count));
    const std::size_t filled =
        unpack_lzw(frame.packed, indices.bytes(),
                   {.literal_bits = frame.literal_bits, .lowest_bit_first = true});
    if (filled < count)
        remarks.push_back(
            fmt::format("a frame ends early: {} of {} pixels are there", filled, count));
    const std::size_t channels = info(format).channel_count;
    for (std::uint32_t y = 0; y < frame.height; ++y) {
        const auto row = image.view().row(frame.is_interlaced ? row_of(y, frame.height) : y);
        for (std::size_t x = 0; x < frame.width; ++x) {
            const std::size_t at = std::size_t{y} * frame.width + x;
            const auto index = at < filled ? std::to_integer<std::size_t>(indices.bytes()[at]) : 0;
            const bool is_clear = at >= filled || index == frame.control.transparent;
            const Color color =
                !is_clear && index < frame.colors.size() ? frame.colors[index] : Color{};
            std::ranges::copy(color, row.begin() + static_cast<std::ptrdiff_t>(x * channels));
            if (channels == 4)
                row[4 * x + 3] = std::byte(is_clear ? 0 : 255);
        }
    }
    return image;
}

bool recognise(ByteSpan bytes) {
    return as_text(bytes).starts_with("GIF87a") || as_text(bytes).starts_with("GIF89a");
}

Status check_frames(const Gif& gif, const Limits& limits) {
    YL_CHECK(check_size(gif.width, gif.height, limits));
    constexpr std::uint64_t max_growth = 2731;  // codes of 12 bits for strings of 4096 bytes
    constexpr std::uint64_t tolerated = std::uint64_t{1} << 20;  // of frames that end early
    for (std::size_t i = 0; i < gif.frames.size(); ++i) {
        const StoredFrame& frame = gif.frames[i];
        const std::uint64_t pixels = std::uint64_t{frame.width} * frame.height;
        if (pixels == 0)
            return fail(ErrorKind::malformed, fmt::format("frame {} has no pixels", i));
        if (frame.x + frame.width > gif.width || frame.y + frame.height > gif.height)
            return fail(ErrorKind::malformed,
                        fmt::format("frame {} reaches beyond the picture", i));
        if (pixels > tolerated && pixels / max_growth > frame.packed.size())
            return fail(ErrorKind::malformed,
                        fmt::format("frame {} ends early: {} bytes cannot hold {} x {} pixels", i,
                                    frame.packed.size(), frame.width, frame.height));
    }
    return {};
}

PictureStart start_of(const Gif& gif) {
    return {.width = gif.width, .height = gif.height, .channels = gif.first_is_opaque() ? 3U : 4U};
}

Result<PictureHeader> header_of_frames(ByteSpan bytes, bool forgiving) {
    YL_TRY(const Gif gif, GifParser(bytes).run(max_frames, forgiving));
    YL_TRY(PictureHeader header, header_of(start_of(gif)));
    header.frames = static_cast<std::uint32_t>(gif.frames.size());
    return header;
}

Result<PictureHeader> peek(ByteSpan bytes) {
    return header_of_frames(bytes, false);
}

Result<PictureHeader> peek_damaged(ByteSpan bytes) {
    return header_of_frames(bytes, true);
}

void describe(PictureInfo& info, const Gif& gif) {
    info.file_channels = gif.first_is_opaque() ? 3 : 4;
    info.file_bits = 8;
    info.has_palette = true;
    info.is_interlaced = gif.frames[0].is_interlaced;
    info.remarks.insert(info.remarks.end(), gif.remarks.begin(), gif.remarks.end());
}

Result<PictureFrames> read_frames_of(Gif gif, Format format, const ReadOptions& options) {
    YL_CHECK(check_frames(gif, options.limits));
    YL_TRY(Canvas canvas,
           Canvas::create(gif.width, gif.height, format, gif.frames.size(), options.limits));
    PictureFrames frames;
    for (const StoredFrame& stored : gif.frames) {
        YL_TRY(const Image image, unpacked(stored, format, options.limits, gif.remarks));
        const Frame frame = {image.view(),
                             stored.x,
                             stored.y,
                             info(format).channel_count == 3,
                             stored.control.disposal,
                             stored.control.seconds};
        YL_CHECK(canvas.show(frame, frames));
        describe(frames.pictures.back().info, gif);
    }
    frames.plays = gif.plays;
    return frames;
}

/// The format has no place to say how colours are encoded, so that no file leaves it open.
void settle(Picture& picture, const ReadOptions& options) {
    settle_transfer(picture, options);
    picture.info.leaves_transfer_open = false;
}

Result<PictureFrames> read_all(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(Gif gif, GifParser(bytes).run(max_frames, true));
    Picture model;
    settle_transfer(model, options);
    YL_TRY(PictureFrames frames,
           read_frames_of(std::move(gif), plain_format({4, 8, false}, model.transfer), options));
    for (Picture& picture : frames.pictures)
        settle(picture, options);
    return frames;
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    YL_TRY(Gif gif, GifParser(bytes).run(1, true));
    Picture model;
    settle_transfer(model, options);
    const std::uint32_t channels = gif.first_is_opaque() ? 3 : 4;
    YL_TRY(PictureFrames frames,
           read_frames_of(std::move(gif), plain_format({channels, 8, false}, model.transfer),
                          options));
    Picture picture = std::move(frames.pictures[0]);
    settle(picture, options);
    return picture;
}

}  // namespace

PictureFormat gif_format() {
    return {.name = "GIF",
            .endings = {"gif"},
            .recognise = recognise,
            .read = read,
            .peek = peek,
            .write = nullptr,
            .held = {},
            .read_frames = read_all,
            .peek_damaged = peek_damaged};
}

}  // namespace yl
