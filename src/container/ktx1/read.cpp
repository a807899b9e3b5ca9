// Reading KTX 1 (Khronos KTX File Format Specification, version 1).
//
//   byte  0  identifier, 12 bytes
//        12  endianness  glType  glTypeSize  glFormat  glInternalFormat  glBaseInternalFormat
//            pixelWidth  pixelHeight  pixelDepth  numberOfArrayElements  numberOfFaces
//            numberOfMipmapLevels  bytesOfKeyValueData                    each 32 bits
//        64  key/value data; then of each level, level 0 first, its size and its surfaces, whose
//            rows begin at multiples of 4 bytes
#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "container/masked_texels.hpp"

namespace yl {
namespace ktx1 {
namespace {

constexpr std::array<std::uint8_t, 12> identifier = {0xAB, 'K',  'T',  'X',  ' ',  '1',
                                                     '1',  0xBB, '\r', '\n', 0x1A, '\n'};
constexpr std::uint32_t own_order = 0x04030201;
constexpr std::uint32_t other_order = 0x01020304;

constexpr std::size_t header_bytes = 64;

struct Header {
    std::uint32_t type = 0, type_size = 0, format = 0, internal_format = 0, base_format = 0,
                  width = 0, height = 0, depth = 0, layers = 0, faces = 0, levels = 0,
                  key_bytes = 0;
    bool is_swapped = false;
};

tl::unexpected<Error> wrong(std::string message, std::uint64_t offset) {
    return fail(ErrorKind::malformed, std::move(message), offset);
}

Result<std::uint32_t> read_word(ByteReader& reader, bool is_swapped) {
    YL_TRY(const auto word, reader.read<std::uint32_t>());
    return is_swapped ? swap_bytes(word) : word;
}

Result<Header> read_fields(ByteReader& reader) {
    Header h;
    YL_CHECK(reader.skip(identifier.size()));
    YL_TRY(const auto order, reader.read<std::uint32_t>());
    if (order != own_order && order != other_order)
        return wrong(
            fmt::format("endianness is {:#x}; it has to be 0x04030201 in either order", order), 12);
    h.is_swapped = order == other_order;
    for (std::uint32_t* field :
         {&h.type, &h.type_size, &h.format, &h.internal_format, &h.base_format, &h.width, &h.height,
          &h.depth, &h.layers, &h.faces, &h.levels, &h.key_bytes}) {
        YL_TRY(*field, read_word(reader, h.is_swapped));
    }
    return h;
}

// OpenGL's words for texels that it no longer has, or that the format table has not (OpenGL 3.0
// compatibility profile, tables 3.3 and 3.5).
constexpr std::uint32_t gl_alpha = 0x1906, gl_rgb = 0x1907, gl_rgba = 0x1908, gl_luminance = 0x1909,
                        gl_luminance_alpha = 0x190A, gl_bgr = 0x80E0, gl_bgra = 0x80E1;
constexpr std::uint32_t gl_unsigned_byte = 0x1401, gl_unsigned_short = 0x1403, gl_float = 0x1406,
                        gl_half_float = 0x140B, gl_half_float_oes = 0x8D61, gl_4444 = 0x8033,
                        gl_5551 = 0x8034, gl_565 = 0x8363, gl_565_reversed = 0x8364,
                        gl_4444_reversed = 0x8365, gl_1555_reversed = 0x8366;

/// Texels of one or two channels that are seen through a swizzle.
struct OldChannels {
    std::uint32_t type;
    Format one, two;
};
constexpr OldChannels old_channels[] = {
    {gl_unsigned_byte, Format::r8_unorm, Format::rg8_unorm},
    {gl_unsigned_short, Format::r16_unorm, Format::rg16_unorm},
    {gl_half_float, Format::r16_float, Format::rg16_float},
    {gl_half_float_oes, Format::r16_float, Format::rg16_float},
    {gl_float, Format::r32_float, Format::rg32_float},
};

/// Texels that are widened: red, green, blue and alpha under masks.
struct OldMasks {
    std::uint32_t format, type, bytes;
    std::array<std::uint32_t, 4> masks;
};
constexpr OldMasks old_masks[] = {
    {gl_rgba, gl_4444, 2, {0xF000, 0x0F00, 0x00F0, 0x000F}},
    {gl_rgba, gl_5551, 2, {0xF800, 0x07C0, 0x003E, 0x0001}},
    {gl_rgb, gl_565, 2, {0xF800, 0x07E0, 0x001F, 0}},
    {gl_rgb, gl_565_reversed, 2, {0x001F, 0x07E0, 0xF800, 0}},
    {gl_rgba, gl_4444_reversed, 2, {0x000F, 0x00F0, 0x0F00, 0xF000}},
    {gl_rgba, gl_1555_reversed, 2, {0x001F, 0x03E0, 0x7C00, 0x8000}},
    {gl_bgra, gl_4444, 2, {0x00F0, 0x0F00, 0xF000, 0x000F}},
    {gl_bgra, gl_5551, 2, {0x003E, 0x07C0, 0xF800, 0x0001}},
    {gl_bgra, gl_4444_reversed, 2, {0x0F00, 0x00F0, 0x000F, 0xF000}},
    {gl_bgra, gl_1555_reversed, 2, {0x7C00, 0x03E0, 0x001F, 0x8000}},
    {gl_bgr, gl_unsigned_byte, 3, {0xFF0000, 0x00FF00, 0x0000FF, 0}},
};

bool is_srgb_name(std::uint32_t internal_format) {  // EXT_texture_sRGB
    return internal_format >= 0x8C40 && internal_format <= 0x8C47;
}

/// Such texels, as they become the texture's; false when these are others.
bool take_old_texels(const Header& h, TextureLayout& layout) {
    const auto srgb_if_said = [&](Format format) {
        return is_srgb_name(h.internal_format)
                   ? with_transfer(format, Transfer::srgb).value_or(format)
                   : format;
    };
    constexpr Swizzle alpha_alone = {SwizzleSource::zero, SwizzleSource::zero, SwizzleSource::zero,
                                     SwizzleSource::red};
    for (const OldChannels& old : old_channels) {
        const bool is_two = h.format == gl_luminance_alpha;
        if (old.type != h.type || (h.format != gl_luminance && h.format != gl_alpha && !is_two))
            continue;
        // The second channel is alpha, which no curve belongs to: two channels stay linear.
        layout.shape.format = is_two ? old.two : srgb_if_said(old.one);
        layout.metadata.swizzle = is_two                 ? gray_alpha_swizzle
                                  : h.format == gl_alpha ? alpha_alone
                                                         : gray_swizzle;
        return true;
    }
    for (const OldMasks& old : old_masks) {
        if (old.type != h.type || old.format != h.format)
            continue;
        layout.shape.format = srgb_if_said(Format::rgba8_unorm);
        ColorMasks masks;
        for (std::size_t c = 0; c < 4; ++c)
            masks[c] = MaskedChannel(old.masks[c]);
        layout.expansion = widened_masks(masks, old.bytes, h.is_swapped && old.bytes == 2);
        layout.info.remarks.push_back(
            fmt::format("texels of {} bits are widened to RGBA of 8 bits", 8 * old.bytes));
        return true;
    }
    return false;
}

/// By OpenGL's sized internal format, or else by the format and type of the texels.
Result<Format> format_of(const Header& h) {
    // What was written for ETC1 (OES_compressed_ETC1_RGB8_texture) reads the same as ETC2.
    constexpr std::uint32_t gl_etc1_rgb8 = 0x8D64;
    if (h.internal_format == gl_etc1_rgb8)
        return Format::etc2_rgb8_unorm;
    const FormatInfo* by_transfer = nullptr;
    const FormatInfo* by_size = nullptr;
    for (const FormatInfo& f : all_formats()) {
        const bool same_transfer = f.gl.format == h.format && f.gl.type == h.type;
        if (f.gl.internal_format == h.internal_format && (f.is_block() || same_transfer))
            return f.format;
        if (f.gl.internal_format == h.internal_format && by_size == nullptr)
            by_size = &f;
        if (same_transfer && !f.is_block() && f.transfer == Transfer::linear &&
            by_transfer == nullptr)
            by_transfer = &f;
    }
    constexpr std::uint32_t last_unsized = 0x190A;  // GL_RED 0x1903 .. GL_LUMINANCE_ALPHA
    const bool is_unsized = h.internal_format >= 0x1903 && h.internal_format <= last_unsized;
    if (by_transfer != nullptr && (is_unsized || by_size != nullptr))
        return by_transfer->format;
    return fail(ErrorKind::unsupported,
                fmt::format("glInternalFormat is {:#x} with glFormat {:#x} and glType {:#x}, which "
                            "are not in the format table",
                            h.internal_format, h.format, h.type),
                28);
}

Result<TextureShape> shape_of(const Header& h, Format format, const Limits& limits) {
    if (h.faces != 1 && h.faces != 6)
        return wrong(fmt::format("numberOfFaces is {}; it has to be 1 or 6", h.faces), 52);
    const TextureShape shape =
        ktx_shape(format, {h.width, h.height, h.depth}, h.layers, h.faces, h.levels);
    if (auto sound = check_shape(shape, limits); !sound)
        return fail(
            sound.error().kind == ErrorKind::usage ? ErrorKind::malformed : sound.error().kind,
            sound.error().message, 36);
    return shape;
}

/// "S=r,T=d,R=i": rows from the left, from the top, slices inwards. Only the second can be kept.
void take_orientation(const std::string& value, TextureLayout& layout) {
    layout.metadata.origin = value.find("T=u") != std::string::npos ? Origin::bottom : Origin::top;
    if (value.find("S=l") != std::string::npos)
        layout.info.remarks.emplace_back(
            "KTXorientation says S=l: the picture is stored mirrored, and is left so");
    if (value.find("R=o") != std::string::npos)
        layout.info.remarks.emplace_back(
            "KTXorientation says R=o: slices are stored from the back, and are left so");
}

/// One key and its value.
void take_entry(std::string_view entry, TextureLayout& layout) {
    const std::size_t end = entry.find('\0');
    if (end == std::string_view::npos || end == 0)
        return;
    const std::string key(entry.substr(0, end));
    const std::string value(entry.substr(end + 1));
    if (key == "KTXorientation")
        take_orientation(value, layout);
    else if (!key.starts_with("KTX") && !key.starts_with("ktx"))  // those belong to the standard
        layout.metadata.key_values.insert_or_assign(key, value);
}

Status read_key_values(const ByteSource& file, std::uint64_t begin, const Header& h,
                       TextureLayout& layout) {
    std::vector<std::byte> space;
    YL_TRY(const ByteSpan data, file.piece(begin, h.key_bytes, space));
    ByteReader entries(data);
    while (entries.left() >= 4) {
        YL_TRY(const std::uint32_t length, read_word(entries, h.is_swapped));
        if (length > entries.left())
            return wrong("an entry of the key/value data is longer than they are",
                         begin + entries.offset() - 4);
        YL_TRY(const ByteSpan entry, entries.take(length));
        take_entry(as_text(entry), layout);
        YL_CHECK(entries.skip(std::min<std::size_t>(entries.left(), (4 - length % 4) % 4)));
    }
    return {};
}

/// `at` is where the first level's size stands.
Status place_levels(const ByteSource& file, std::uint64_t at, const Header& h,
                    TextureLayout& layout) {
    const TextureShape& shape = layout.shape;
    std::vector<std::byte> space;
    const bool is_plain_cube = shape.faces == 6 && !shape.is_array;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        const std::uint64_t field = at;
        YL_TRY(const ByteSpan word, file.piece(field, 4, space));
        ByteReader reader(word);
        YL_TRY(const std::uint32_t size, read_word(reader, h.is_swapped));
        LevelPlace place = layout.tight_place(level, field + 4, 0);
        if (layout.expansion.expand)
            place.row_stride = std::uint64_t{shape.width_at(level)} * layout.expansion.stored_bytes;
        if (!info(shape.format).is_block())
            place.row_stride = round_up(place.row_stride, 4);
        place.slice_stride =
            place.row_stride * (shape.surface_bytes(level) / shape.row_bytes(level));
        const std::uint64_t face_bytes = place.slice_stride * shape.depth_at(level);
        place.face_stride = is_plain_cube ? round_up(face_bytes, 4) : face_bytes;
        place.layer_stride = place.face_stride * shape.faces;
        place.length = place.layer_stride * shape.layers;
        const std::uint64_t expected = is_plain_cube ? face_bytes : place.length;
        if (size != expected)
            return wrong(fmt::format("imageSize of level {} is {}; its size and format need {}",
                                     level, size, expected),
                         field);
        if (place.length > file.size() - place.offset)
            return wrong(fmt::format("level {} has {} bytes, and the file ends after {} of them",
                                     level, place.length, file.size() - place.offset),
                         place.offset);
        const std::uint64_t end = place.offset + place.length;
        at = std::min(end + (4 - place.length % 4) % 4, file.size());
        layout.levels.push_back(place);
    }
    return {};
}

/// Numbers of a file from a machine of the other byte order.
RowExpansion swapped(Format format, std::uint32_t type_size) {
    const std::uint32_t texel_bytes = info(format).block_bytes;
    return {texel_bytes, [=](const std::byte* stored, std::byte* texels, std::size_t count) {
                for (std::size_t at = 0; at < count * texel_bytes; at += type_size)
                    for (std::size_t i = 0; i < type_size; ++i)
                        texels[at + i] = stored[at + type_size - 1 - i];
            }};
}

bool recognise(ByteSpan bytes) {
    return bytes.size() >= identifier.size() &&
           std::memcmp(bytes.data(), identifier.data(), identifier.size()) == 0;
}

Result<TextureLayout> read_header(const ByteSource& file, const TextureReadOptions& options) {
    std::vector<std::byte> space;
    YL_TRY(const ByteSpan start, file.start(header_bytes, space));
    ByteReader reader(start);
    YL_TRY(const Header h, read_fields(reader));
    TextureLayout layout;
    if (!take_old_texels(h, layout)) {
        YL_TRY(layout.shape.format, format_of(h));
    }
    const Format format = layout.shape.format;
    YL_TRY(layout.shape, shape_of(h, format, options.limits));
    layout.metadata.transfer = info(format).transfer;
    if (h.levels == 0)
        layout.info.remarks.emplace_back(
            "numberOfMipmapLevels is 0: the program is to generate the other levels");
    YL_CHECK(read_key_values(file, header_bytes, h, layout));
    YL_CHECK(place_levels(file, header_bytes + std::uint64_t{h.key_bytes}, h, layout));
    const std::uint32_t type_size = info(format).type_size;
    if (h.is_swapped && type_size > 1 && !layout.expansion.expand)
        layout.expansion = swapped(format, type_size);
    return layout;
}

}  // namespace
}  // namespace ktx1

TextureFormat ktx1_format() {
    return {"KTX 1", "ktx", ktx1::recognise, ktx1::read_header, nullptr, nullptr};
}

}  // namespace yl
