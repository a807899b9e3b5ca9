// TGA (Truevision TGA File Format Specification, version 2.0).
//
//   byte 0  length of the id (8)  colour map there (8)  type (8)
//        3  colour map: first index (16)  length (16)  bits of an entry (8)
//        8  origin x (16)  y (16)  width (16)  height (16)  bits of a pixel (8)  descriptor (8)
//       18  id, colour map, pixels
//
//   descriptor:  7 6 interleaving   5 top row first   4 right column first   3 .. 0 bits of alpha
//
//   The last 26 bytes may be: offset of the extension area (32)  of the developer area (32)
//   "TRUEVISION-XFILE." 0; byte 494 of the extension area says what alpha means.
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "codec/color_masks.hpp"
#include "codec/picture_format.hpp"
#include "pixel/channels.hpp"

namespace yl {
namespace {

constexpr std::size_t header_bytes = 18;
constexpr std::size_t footer_bytes = 26;
constexpr std::size_t alpha_meaning_offset = 494;
constexpr std::uint8_t run_length_bit = 8;

enum class Kind : std::uint8_t { mapped = 1, color = 2, gray = 3 };
enum class AlphaMeaning : std::uint8_t {
    none = 0,
    ignore = 1,
    keep = 2,
    straight = 3,
    premultiplied = 4
};

struct Header {
    std::uint8_t id_bytes = 0, has_map = 0, type = 0, map_bits = 0, bits = 0, descriptor = 0;
    std::uint16_t map_first = 0, map_length = 0, width = 0, height = 0;

    [[nodiscard]] Kind kind() const { return static_cast<Kind>(type & 7); }
    [[nodiscard]] bool has_runs() const { return (type & run_length_bit) != 0; }
    [[nodiscard]] std::uint32_t alpha_bits() const { return descriptor & 15U; }
    [[nodiscard]] std::uint32_t pixel_bytes() const { return (bits + 7U) / 8U; }
    [[nodiscard]] std::uint32_t color_bits() const {
        return kind() == Kind::mapped ? map_bits : bits;
    }

    [[nodiscard]] bool is_sound() const {
        const auto color_depth = [](std::uint32_t b) {
            return b == 15 || b == 16 || b == 24 || b == 32;
        };
        const bool known =
            type == 1 || type == 2 || type == 3 || type == 9 || type == 10 || type == 11;
        if (!known || has_map > 1 || width == 0 || height == 0 || (descriptor & 0xC0) != 0)
            return false;
        if (kind() == Kind::mapped)
            return has_map == 1 && (bits == 8 || bits == 15 || bits == 16) &&
                   color_depth(map_bits) && map_length > 0;
        return kind() == Kind::gray ? bits == 8 || bits == 16 : color_depth(bits);
    }
};

Result<Header> read_header(ByteReader& reader) {
    Header h;
    for (std::uint8_t* field : {&h.id_bytes, &h.has_map, &h.type}) {
        YL_TRY(*field, reader.read<std::uint8_t>());
    }
    for (std::uint16_t* field : {&h.map_first, &h.map_length}) {
        YL_TRY(*field, reader.read<std::uint16_t>());
    }
    YL_TRY(h.map_bits, reader.read<std::uint8_t>());
    YL_CHECK(reader.skip(4));
    for (std::uint16_t* field : {&h.width, &h.height}) {
        YL_TRY(*field, reader.read<std::uint16_t>());
    }
    for (std::uint8_t* field : {&h.bits, &h.descriptor}) {
        YL_TRY(*field, reader.read<std::uint8_t>());
    }
    return h;
}

/// What the file says about its alpha channel; its descriptor's count where it has no extension.
AlphaMeaning alpha_meaning(ByteSpan file, const Header& h) {
    const AlphaMeaning by_count = h.alpha_bits() > 0 ? AlphaMeaning::straight : AlphaMeaning::none;
    if (file.size() < footer_bytes ||
        as_text(file).substr(file.size() - 18, 17) != "TRUEVISION-XFILE.")
        return by_count;
    const std::uint64_t extension = load<std::uint32_t>(file.data() + file.size() - footer_bytes);
    if (extension == 0 || extension + alpha_meaning_offset >= file.size())
        return by_count;
    const auto meaning = std::to_integer<std::uint8_t>(
        file[static_cast<std::size_t>(extension) + alpha_meaning_offset]);
    return meaning <= 4 ? static_cast<AlphaMeaning>(meaning) : by_count;
}

/// Whether stored colours differ in their alpha. Many writers say "no alpha" of a channel that
/// holds one; a channel that says the same everywhere is none.
bool alpha_varies(ByteSpan colors, std::uint32_t bits) {
    const std::size_t bytes = bits == 32 ? 4 : 2;
    const auto mask = bits == 32 ? std::byte{0xFF} : std::byte{0x80};
    for (std::size_t i = bytes - 1; i < colors.size(); i += bytes)
        if (((colors[i] ^ colors[bytes - 1]) & mask) != std::byte{0})
            return true;
    return false;
}

/// One stored colour to 8-bit channels.
class ColorReader {
 public:
    ColorReader(std::uint32_t bits, std::uint32_t channels) : bits_(bits), channels_(channels) {}

    void expand(const std::byte* stored, std::byte* target) const {
        if (bits_ == 8) {
            target[0] = stored[0];
        } else if (channels_ == 2) {
            std::copy_n(stored, 2, target);
        } else if (bits_ <= 16) {
            const std::uint32_t pixel = load<std::uint16_t>(stored);
            for (std::size_t c = 0; c < channels_; ++c)
                target[c] = std::byte{masks_[c].of(pixel)};
        } else {
            for (std::size_t c = 0; c < 3; ++c)
                target[c] = stored[2 - c];
            if (channels_ == 4)
                target[3] = stored[3];
        }
    }

 private:
    std::uint32_t bits_;
    std::uint32_t channels_;
    ColorMasks masks_ = masks_1555();
};

/// The stored pixels in file order, with runs undone.
Result<std::vector<std::byte>> unpack_runs(ByteReader& reader, const Header& h) {
    const std::size_t bytes = h.pixel_bytes();
    const std::size_t total = std::size_t{h.width} * h.height * bytes;
    std::vector<std::byte> pixels;
    pixels.reserve(total);
    while (pixels.size() < total) {
        YL_TRY(const auto packet, reader.read<std::uint8_t>());
        const std::size_t count =
            std::min<std::size_t>((packet & 0x7FU) + 1, (total - pixels.size()) / bytes);
        YL_TRY(const ByteSpan stored, reader.take(packet >= 0x80 ? bytes : count * bytes));
        for (std::size_t i = 0; i < (packet >= 0x80 ? count : 1); ++i)
            for (const std::byte byte : stored)
                pixels.push_back(byte);
    }
    return pixels;
}

/// The colour map as it is stored; empty where pixels are not indices.
Result<ByteSpan> take_map(ByteReader& reader, const Header& h) {
    if (h.has_map == 0)
        return ByteSpan();
    YL_TRY(const ByteSpan stored,
           reader.take(std::uint64_t{h.map_length} * ceil_div(h.map_bits, 8)));
    return h.kind() == Kind::mapped ? stored : ByteSpan();
}

/// The colour map with `channels` bytes an entry.
std::vector<std::byte> expand_map(ByteSpan stored, const Header& h, std::uint32_t channels) {
    std::vector<std::byte> map(stored.empty() ? 0 : std::size_t{h.map_length} * channels);
    const ColorReader colors(h.map_bits, channels);
    const std::size_t entry_bytes = ceil_div(h.map_bits, 8);
    for (std::size_t i = 0; i * channels < map.size(); ++i)
        colors.expand(stored.data() + i * entry_bytes, map.data() + i * channels);
    return map;
}

void place_pixels(const Header& h, ByteSpan stored, const std::vector<std::byte>& map,
                  std::uint32_t channels, ImageView target) {
    const bool top_first = (h.descriptor & 0x20) != 0;
    const bool right_first = (h.descriptor & 0x10) != 0;
    const ColorReader colors(h.bits, channels);
    const bool is_plain =
        h.kind() == Kind::color && h.bits == 8 * channels && h.bits >= 24 && !right_first;
    for (std::uint32_t row = 0; row < h.height; ++row) {
        std::byte* line = target.row(top_first ? row : h.height - 1U - row).data();
        if (is_plain) {
            exchange_red_and_blue(stored.data() + std::size_t{row} * h.width * channels, line,
                                  h.width, channels);
            continue;
        }
        for (std::uint32_t column = 0; column < h.width; ++column) {
            const std::byte* source =
                stored.data() + (std::size_t{row} * h.width + column) * h.pixel_bytes();
            std::byte* pixel =
                line + std::size_t{right_first ? h.width - 1U - column : column} * channels;
            if (h.kind() != Kind::mapped) {
                colors.expand(source, pixel);
                continue;
            }
            const std::uint32_t index =
                h.bits == 8 ? std::to_integer<std::uint32_t>(*source) : load<std::uint16_t>(source);
            const std::uint32_t entry = index - h.map_first;  // wraps round below the first
            if (entry < h.map_length)
                std::copy_n(map.data() + std::size_t{entry} * channels, channels, pixel);
            else
                std::fill_n(pixel, channels, std::byte{0});
        }
    }
}

bool recognise(ByteSpan bytes) {
    if (bytes.size() < header_bytes)
        return false;
    ByteReader reader(bytes);
    const auto h = read_header(reader);
    return h && h->is_sound();
}

/// What alpha means after a look at the colours; a remark where the file says otherwise.
AlphaMeaning judge_alpha(AlphaMeaning stated, const Header& h, ByteSpan colors, PictureInfo& info) {
    const std::uint32_t bits = h.color_bits();
    const bool may_have = bits == 32 || (bits == 16 && h.alpha_bits() > 0);
    if (stated >= AlphaMeaning::keep || h.kind() == Kind::gray || !may_have ||
        !alpha_varies(colors, bits))
        return stated;
    if (stated == AlphaMeaning::ignore) {
        info.remarks.emplace_back("a fourth channel is left out: the file calls it undefined");
        return stated;
    }
    info.remarks.emplace_back(
        "the file says that it has no alpha, but its alpha differs from pixel to pixel: it is "
        "kept");
    return AlphaMeaning::straight;
}

Result<void> check_length(const Header& h, const ByteReader& reader) {
    const std::uint64_t pixels = std::uint64_t{h.width} * h.height;
    if ((h.has_runs() ? ceil_div(pixels, 128) * 2 : pixels * h.pixel_bytes()) <= reader.left())
        return {};
    return fail(ErrorKind::malformed,
                fmt::format("the file ends early: {} bytes are too few for {} x {} pixels",
                            reader.left(), h.width, h.height),
                reader.offset());
}

PictureStart start_of(const Header& h, bool has_alpha) {
    const bool is_gray = h.kind() == Kind::gray;
    return {.width = h.width,
            .height = h.height,
            .channels = (is_gray ? 1U : 3U) + (has_alpha || (is_gray && h.bits == 16) ? 1U : 0U)};
}

Result<PictureHeader> peek(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(const Header h, read_header(reader));
    const bool may_have_alpha =
        h.color_bits() == 32 || (h.color_bits() == 16 && h.alpha_bits() > 0);
    return header_of(start_of(h, h.kind() != Kind::gray && may_have_alpha));
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    ByteReader reader(bytes);
    YL_TRY(const Header h, read_header(reader));
    YL_CHECK(reader.skip(h.id_bytes));
    YL_TRY(const ByteSpan map, take_map(reader, h));
    YL_CHECK(check_length(h, reader));
    std::vector<std::byte> unpacked;
    ByteSpan stored;
    if (h.has_runs()) {
        YL_CHECK(check_size(h.width, h.height, options.limits));
        YL_CHECK(check_shape({.format = plain_format({h.pixel_bytes(), 8}, Transfer::linear),
                              .width = h.width,
                              .height = h.height},
                             options.limits));
        YL_TRY(unpacked, unpack_runs(reader, h));
        stored = unpacked;
    } else {
        YL_TRY(stored, reader.take(std::uint64_t{h.width} * h.height * h.pixel_bytes()));
    }
    PictureInfo info;
    const AlphaMeaning meaning =
        judge_alpha(alpha_meaning(bytes, h), h, h.kind() == Kind::mapped ? map : stored, info);
    const bool has_alpha =
        meaning >= AlphaMeaning::keep && (h.color_bits() == 32 || h.color_bits() == 16);
    const PictureStart start = start_of(h, has_alpha);
    YL_TRY(Picture picture, start_picture(start, options));
    picture.alpha =
        meaning == AlphaMeaning::premultiplied ? AlphaMode::premultiplied : AlphaMode::straight;
    picture.info.has_palette = h.kind() == Kind::mapped;
    picture.info.file_bits = h.bits;
    picture.info.remarks = std::move(info.remarks);
    place_pixels(h, stored, expand_map(map, h, start.channels), start.channels,
                 picture.image.view());
    return picture;
}

/// Gray of 8 bits, RGB or RGBA, without runs, top row first.
Result<std::vector<std::byte>> write(ConstImageView image, const WriteOptions&) {
    const auto kind = plain_channels(image.format);
    if (!kind || kind->bits != 8 || kind->channels == 2)
        return fail(
            ErrorKind::usage,
            "TGA is written of one channel, RGB or RGBA of 8 bits; convert the picture first");
    if (std::max(image.width, image.height) > 0xFFFF)
        return fail(ErrorKind::usage, "TGA holds at most 65,535 pixels on a side");
    ByteWriter writer;
    const bool alpha = kind->channels == 4;
    for (const int byte : {0, 0, kind->channels == 1 ? 3 : 2, 0, 0, 0, 0, 0, 0, 0, 0, 0})
        writer.write(static_cast<std::uint8_t>(byte));
    writer.write(static_cast<std::uint16_t>(image.width));
    writer.write(static_cast<std::uint16_t>(image.height));
    writer.write(static_cast<std::uint8_t>(8 * kind->channels));
    writer.write(static_cast<std::uint8_t>(0x20 | (alpha ? 8 : 0)));
    for (std::uint32_t y = 0; y < image.height; ++y) {
        const ByteSpan source = image.row(y);
        std::vector<std::byte> row(source.begin(), source.end());
        for (std::size_t i = 0; kind->channels >= 3 && i < row.size(); i += kind->channels)
            std::swap(row[i], row[i + 2]);
        writer.append(row);
    }
    writer.write(std::uint64_t{0});
    writer.append("TRUEVISION-XFILE.");
    writer.write(std::uint8_t{0});
    return writer.release();
}

}  // namespace

PictureFormat tga_format() {
    return {"TGA", {"tga", "icb", "vda", "vst"},      recognise, read, peek,
            write, {.channels = "134", .bytes = true}};
}

}  // namespace yl
