// BMP: device-independent bitmaps of Windows and OS/2, all header versions.
//
//   byte 0  "BM"  file size (32)  reserved (32)  offset of the pixels (32)
//       14  header size (32), which tells the version: 12 OS/2 1.x; 16 to 64 OS/2 2.x; 40 Windows
//       3;
//           52 and 56 with masks; 108 version 4; 124 version 5
//   of all but 12:
//       18  width (32)  height (32, negative: top row first)  planes (16)  bits (16)
//       30  compression (32)  image size (32)  resolution (2 x 32)  colours used (32)  important
//       (32) 54  masks of red, green, blue and alpha (32 each), in the header or after it
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "codec/color_masks.hpp"
#include "codec/picture_format.hpp"
#include "pixel/channels.hpp"

namespace yl {
namespace {

enum class Packing : std::uint32_t {
    none = 0,
    rle8 = 1,
    rle4 = 2,
    masks = 3,
    jpeg = 4,
    png = 5,
    alpha_masks = 6
};

constexpr std::uint32_t file_header_bytes = 14;
constexpr std::uint32_t os2_header_bytes = 12;
constexpr std::uint32_t windows_header_bytes = 40;

struct Header {
    std::uint32_t pixel_offset = 0;
    std::uint32_t header_bytes = 0;
    std::uint32_t width = 0;
    std::uint32_t height = 0;
    bool top_first = false;
    std::uint32_t bits = 0;
    Packing packing = Packing::none;
    std::uint32_t colors = 0;
    ColorMasks masks;
    std::vector<std::array<std::uint8_t, 3>> palette;

    [[nodiscard]] std::uint32_t channels() const { return masks[3].is_present() ? 4 : 3; }
    /// Blue, green and red in whole bytes, and a fourth byte that is alpha or nothing.
    [[nodiscard]] bool is_plain_bgr() const {
        return bits == 24 || (bits == 32 && masks[0].mask() == 0xFF0000 &&
                              masks[1].mask() == 0xFF00 && masks[2].mask() == 0xFF &&
                              (!masks[3].is_present() || masks[3].mask() == 0xFF000000));
    }
    [[nodiscard]] std::uint64_t row_bytes() const {
        return round_up(ceil_div(std::uint64_t{width} * bits, 8), 4);
    }
};

Status check_header(const Header& h) {
    static constexpr std::uint32_t depths[] = {1, 2, 4, 8, 16, 24, 32};
    const auto packed_as = [&](Packing packing, std::uint32_t bits) {
        return h.packing == packing && h.bits == bits;
    };
    const bool masked = (h.packing == Packing::masks || h.packing == Packing::alpha_masks) &&
                        (h.bits == 16 || h.bits == 32);
    if (h.packing == Packing::jpeg || h.packing == Packing::png)
        return fail(ErrorKind::unsupported,
                    "the bitmap only wraps a JPEG or PNG picture for a printer", 30);
    if (std::find(std::begin(depths), std::end(depths), h.bits) == std::end(depths))
        return fail(ErrorKind::malformed,
                    fmt::format("the header gives {} bits for a pixel", h.bits), 28);
    if (h.packing != Packing::none && !packed_as(Packing::rle8, 8) &&
        !packed_as(Packing::rle4, 4) && !masked)
        return fail(ErrorKind::unsupported,
                    fmt::format("compression {} with {} bits is not known",
                                static_cast<std::uint32_t>(h.packing), h.bits),
                    30);
    for (const MaskedChannel& mask : h.masks)
        if (!mask.is_sound())
            return fail(ErrorKind::malformed, "a colour mask's bits do not stand together", 54);
    return {};
}

Status read_masks(ByteReader& reader, Header& h) {
    const bool asked = h.packing == Packing::masks || h.packing == Packing::alpha_masks;
    if (!asked) {
        if (h.bits == 16)
            h.masks = masks_1555();
        if (h.bits == 32)
            h.masks = {MaskedChannel(0xFF0000), MaskedChannel(0xFF00), MaskedChannel(0xFF)};
        h.masks[3] = MaskedChannel();  // unused bits, not alpha
        return {};
    }
    const bool has_alpha = h.header_bytes >= 56 || h.packing == Packing::alpha_masks;
    YL_CHECK(reader.seek(file_header_bytes + windows_header_bytes));
    for (std::size_t i = 0; i < (has_alpha ? 4U : 3U); ++i) {
        YL_TRY(const auto mask, reader.read<std::uint32_t>());
        h.masks[i] = MaskedChannel(mask);
    }
    return {};
}

Status read_palette(ByteReader& reader, Header& h) {
    if (h.bits > 8)
        return {};
    const std::uint32_t entry_bytes = h.header_bytes == os2_header_bytes ? 3 : 4;
    std::uint32_t start = file_header_bytes + h.header_bytes;
    if (h.header_bytes == windows_header_bytes && h.packing == Packing::masks)
        start += 12;
    const std::uint32_t room = h.pixel_offset > start ? (h.pixel_offset - start) / entry_bytes : 0;
    const std::uint32_t most = 1U << h.bits;
    const std::uint32_t count =
        std::min({h.colors == 0 ? most : h.colors, most, std::max(room, 1U)});
    YL_CHECK(reader.seek(start));
    for (std::uint32_t i = 0; i < count; ++i) {
        YL_TRY(const ByteSpan entry, reader.take(entry_bytes));
        h.palette.push_back({std::to_integer<std::uint8_t>(entry[2]),
                             std::to_integer<std::uint8_t>(entry[1]),
                             std::to_integer<std::uint8_t>(entry[0])});
    }
    h.palette.resize(most);  // entries beyond the palette's end are black
    return {};
}

Result<Header> read_header(ByteReader& reader) {
    Header h;
    YL_CHECK(reader.seek(10));
    YL_TRY(h.pixel_offset, reader.read<std::uint32_t>());
    YL_TRY(h.header_bytes, reader.read<std::uint32_t>());
    if (h.header_bytes == os2_header_bytes) {
        YL_TRY(h.width, reader.read<std::uint16_t>());
        YL_TRY(h.height, reader.read<std::uint16_t>());
        YL_CHECK(reader.skip(2));
        YL_TRY(h.bits, reader.read<std::uint16_t>());
    } else if (h.header_bytes >= 16 && h.header_bytes <= 124) {
        YL_TRY(h.width, reader.read<std::uint32_t>());
        YL_TRY(const auto height, reader.read<std::uint32_t>());
        h.top_first = (height >> 31) != 0;
        h.height = h.top_first ? 0U - height : height;
        YL_CHECK(reader.skip(2));
        YL_TRY(h.bits, reader.read<std::uint16_t>());
        if (h.header_bytes >= 20) {
            YL_TRY(const auto packing, reader.read<std::uint32_t>());
            h.packing = static_cast<Packing>(packing);
        }
        if (h.header_bytes >= 36) {
            YL_CHECK(reader.skip(12));
            YL_TRY(h.colors, reader.read<std::uint32_t>());
        }
    } else {
        return fail(ErrorKind::malformed,
                    fmt::format("the header gives its own size as {}, which no version has",
                                h.header_bytes),
                    14);
    }
    const bool os2_only =
        h.header_bytes == 64 && (h.packing == Packing::masks || h.packing == Packing::jpeg);
    if (os2_only)
        return fail(ErrorKind::unsupported,
                    "OS/2's Huffman and 24-bit run-length packing are not handled", 30);
    YL_CHECK(read_masks(reader, h));
    YL_CHECK(check_header(h));
    YL_CHECK(read_palette(reader, h));
    return h;
}

/// One stored row to RGB or RGBA.
void expand_row(const Header& h, const std::byte* stored, std::byte* target) {
    if (h.is_plain_bgr() && h.bits == 8 * h.channels())
        return exchange_red_and_blue(stored, target, h.width, h.channels());
    if (h.is_plain_bgr()) {
        for (std::uint32_t x = 0; x < h.width; ++x, stored += 4, target += 3)
            for (std::size_t c = 0; c < 3; ++c)
                target[c] = stored[2 - c];
        return;
    }
    const auto put = [&](std::uint8_t value) { *target++ = std::byte{value}; };
    for (std::uint32_t x = 0; x < h.width; ++x) {
        if (h.bits <= 8) {
            const std::uint32_t bit = x * h.bits;
            const auto byte = std::to_integer<std::uint32_t>(stored[bit / 8]);
            const std::uint32_t index = byte >> (8 - h.bits - bit % 8) & ((1U << h.bits) - 1U);
            for (const std::uint8_t value : h.palette[index])
                put(value);
        } else {
            const std::uint32_t pixel = h.bits == 16
                                            ? load<std::uint16_t>(stored + std::size_t{x} * 2)
                                            : load<std::uint32_t>(stored + std::size_t{x} * 4);
            for (std::size_t c = 0; c < h.channels(); ++c)
                put(h.masks[c].of(pixel));
        }
    }
}

/// Undoes run-length packing into one palette index for each pixel, bottom row first. Pixels that
/// are skipped have index 0.
Result<std::vector<std::uint8_t>> unpack_runs(ByteReader& reader, const Header& h,
                                              PictureInfo& info) {
    std::vector<std::uint8_t> indices(std::size_t{h.width} * h.height);
    std::uint64_t x = 0;
    std::uint64_t y = 0;
    const auto put = [&](std::uint8_t index) {
        if (x < h.width && y < h.height)
            indices[static_cast<std::size_t>(y * h.width + x)] = index;
        ++x;
    };
    const auto nibble = [&](std::uint8_t byte, std::uint32_t i) {
        return h.bits == 8 ? byte : static_cast<std::uint8_t>(i % 2 == 0 ? byte >> 4 : byte & 15);
    };
    while (y < h.height) {
        const bool is_whole = y + 1 == h.height && x >= h.width;
        if (is_whole && reader.left() < 2) {
            info.remarks.emplace_back("the file ends without its end mark; no pixel is missing");
            break;
        }
        YL_TRY(const auto count, reader.read<std::uint8_t>());
        YL_TRY(const auto value, reader.read<std::uint8_t>());
        if (count > 0) {
            for (std::uint32_t i = 0; i < count; ++i)
                put(nibble(value, i));
        } else if (value == 0) {  // end of the row
            x = 0;
            ++y;
        } else if (value == 1) {  // end of the picture
            break;
        } else if (value == 2) {  // jump
            YL_TRY(const auto right, reader.read<std::uint8_t>());
            YL_TRY(const auto up, reader.read<std::uint8_t>());
            x += right;
            y += up;
        } else {  // so many indices as they are, padded to 16 bits
            const std::uint64_t bytes = ceil_div(std::uint64_t{value} * h.bits, 8);
            YL_TRY(const ByteSpan literal, reader.take(round_up(bytes, 2)));
            for (std::uint32_t i = 0; i < value; ++i)
                put(nibble(std::to_integer<std::uint8_t>(literal[h.bits == 8 ? i : i / 2]), i));
        }
    }
    return indices;
}

Status read_runs(ByteReader& reader, Header h, Picture& picture) {
    YL_TRY(const auto indices, unpack_runs(reader, h, picture.info));
    h.bits = 8;
    for (std::uint32_t y = 0; y < h.height; ++y)
        expand_row(h, reinterpret_cast<const std::byte*>(indices.data()) + std::size_t{y} * h.width,
                   picture.image.view().row(h.top_first ? y : h.height - 1 - y).data());
    return {};
}

Status read_rows(ByteReader& reader, const Header& h, Picture& picture) {
    for (std::uint32_t y = 0; y < h.height; ++y) {
        YL_TRY(const ByteSpan stored, reader.take(h.row_bytes()));
        expand_row(h, stored.data(),
                   picture.image.view().row(h.top_first ? y : h.height - 1 - y).data());
    }
    return {};
}

bool recognise(ByteSpan bytes) {
    if (bytes.size() < 18 || !as_text(bytes).starts_with("BM"))
        return false;
    const auto header = load<std::uint32_t>(bytes.data() + 14);
    return header >= os2_header_bytes && header <= 124;
}

PictureStart start_of(const Header& h) {
    return {.width = h.width, .height = h.height, .channels = h.channels()};
}

Result<PictureHeader> peek(ByteSpan bytes) {
    ByteReader reader(bytes);
    YL_TRY(const Header h, read_header(reader));
    return header_of(start_of(h));
}

Result<Picture> read(ByteSpan bytes, const ReadOptions& options) {
    ByteReader reader(bytes);
    YL_TRY(Header h, read_header(reader));
    if (h.pixel_offset < file_header_bytes + h.header_bytes)
        return fail(ErrorKind::malformed,
                    fmt::format("the pixels are said to begin at byte {}, within the headers of {} "
                                "bytes",
                                h.pixel_offset, file_header_bytes + h.header_bytes),
                    10);
    YL_CHECK(reader.seek(h.pixel_offset));
    const bool runs = h.packing == Packing::rle8 || h.packing == Packing::rle4;
    if (!runs && CheckedSize(h.row_bytes()).value().value_or(0) * h.height > reader.left() &&
        h.width > 0)
        return fail(
            ErrorKind::malformed,
            fmt::format("the file ends early: {} rows of {} bytes are needed and {} bytes are left",
                        h.height, h.row_bytes(), reader.left()),
            h.pixel_offset);
    YL_TRY(Picture picture, start_picture(start_of(h), options));
    picture.info.file_bits = h.bits;
    picture.info.has_palette = h.bits <= 8;
    YL_CHECK(runs ? read_runs(reader, h, picture) : read_rows(reader, h, picture));
    return picture;
}

/// 24 bits, or 32 with a version 4 header that names the alpha mask.
Result<std::vector<std::byte>> write(ConstImageView image, const WriteOptions&) {
    const auto kind = plain_channels(image.format);
    if (!kind || kind->bits != 8 || kind->channels < 3)
        return fail(ErrorKind::usage,
                    "BMP is written of RGB and RGBA of 8 bits; convert the picture first");
    const bool alpha = kind->channels == 4;
    const std::uint32_t header_bytes = alpha ? 108 : windows_header_bytes;
    const std::uint64_t row_bytes = round_up(std::uint64_t{image.width} * kind->channels, 4);
    const std::uint64_t size = file_header_bytes + header_bytes + row_bytes * image.height;
    if (size > 0xFFFFFFFF)
        return fail(ErrorKind::usage, "the picture is too large for a BMP file of 4 GiB");
    ByteWriter writer;
    writer.append("BM");
    for (const std::uint32_t field :
         {static_cast<std::uint32_t>(size), 0U, file_header_bytes + header_bytes, header_bytes,
          image.width, image.height, 1U | 8U * kind->channels << 16,
          static_cast<std::uint32_t>(alpha ? Packing::masks : Packing::none),
          static_cast<std::uint32_t>(row_bytes * image.height), 2835U, 2835U, 0U, 0U})
        writer.write(field);
    if (alpha) {
        for (const std::uint32_t mask : {0xFF0000U, 0xFF00U, 0xFFU, 0xFF000000U})
            writer.write(mask);
        writer.append("BGRs");  // sRGB
        for (int i = 0; i < 12; ++i)
            writer.write(std::uint32_t{0});
    }
    for (std::uint32_t y = image.height; y-- > 0;) {
        std::vector<std::byte> row(static_cast<std::size_t>(row_bytes));
        const ByteSpan source = image.row(y);
        for (std::size_t i = 0; i < source.size(); i += kind->channels) {
            for (std::size_t c = 0; c < 3; ++c)
                row[i + c] = source[i + 2 - c];
            if (alpha)
                row[i + 3] = source[i + 3];
        }
        writer.append(row);
    }
    return writer.release();
}

}  // namespace

PictureFormat bmp_format() {
    return {"BMP", {"bmp", "dib"}, recognise, read, peek, write, {.channels = "34", .bytes = true}};
}

}  // namespace yl
