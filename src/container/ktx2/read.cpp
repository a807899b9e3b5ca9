// Reading KTX 2.0: nothing in the file is believed before it is checked.
#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "base/text.hpp"
#include "container/ktx2/ktx2.hpp"
#include "container/ktx2/layout.hpp"

namespace yl::ktx2 {
namespace {

struct Section {
    std::uint64_t offset = 0;
    std::uint64_t length = 0;
};

struct LevelEntry {
    Section section;
    std::uint64_t unpacked = 0;
};

struct Header {
    std::uint32_t vk_format = 0, type_size = 0, width = 0, height = 0, depth = 0, layers = 0,
                  faces = 0, levels = 0, scheme = 0;
    Section descriptor, key_values, global_data;
    std::vector<LevelEntry> level_index;
};

/// Rules whose breach changes nothing about the texels: an error, or a remark when reading is
/// forgiving.
class Rules {
 public:
    Rules(bool forgiving, std::vector<std::string>& remarks)
        : forgiving_(forgiving), remarks_(remarks) {}

    [[nodiscard]] Status broken(std::string message, std::uint64_t offset) const {
        if (!forgiving_)
            return fail(ErrorKind::malformed, std::move(message), offset);
        remarks_.push_back(fmt::format("at byte {}: {}", offset, message));
        return {};
    }

 private:
    bool forgiving_;
    std::vector<std::string>& remarks_;
};

tl::unexpected<Error> wrong(std::string message, std::uint64_t offset) {
    return fail(ErrorKind::malformed, std::move(message), offset);
}

Result<Header> read_fields(ByteReader& reader) {
    Header h;
    YL_CHECK(reader.skip(identifier.size()));
    for (std::uint32_t* field : {&h.vk_format, &h.type_size, &h.width, &h.height, &h.depth,
                                 &h.layers, &h.faces, &h.levels, &h.scheme}) {
        YL_TRY(*field, reader.read<std::uint32_t>());
    }
    for (Section* section : {&h.descriptor, &h.key_values}) {
        YL_TRY(section->offset, reader.read<std::uint32_t>());
        YL_TRY(section->length, reader.read<std::uint32_t>());
    }
    YL_TRY(h.global_data.offset, reader.read<std::uint64_t>());
    YL_TRY(h.global_data.length, reader.read<std::uint64_t>());
    return h;
}

/// Vulkan has no ETC1, whose blocks ETC2 decodes the same: the descriptor says what it is.
Result<const FormatInfo*> format_of(const ByteSource& file, const Header& h) {
    const FormatInfo* format = find_format(static_cast<Format>(h.vk_format));
    if (h.vk_format == 0 && h.descriptor.length >= 4 * 7) {
        std::vector<std::byte> space;
        YL_TRY(const ByteSpan descriptor,
               file.piece(h.descriptor.offset, h.descriptor.length, space));
        format = format_of_etc1(descriptor);
    }
    if (format == nullptr)
        return fail(ErrorKind::unsupported,
                    fmt::format("vkFormat is {}, which is not in the format table", h.vk_format),
                    12);
    return format;
}

Result<TextureShape> shape_of(const ByteSource& file, const Header& h, const Limits& limits,
                              const Rules& rules) {
    YL_TRY(const FormatInfo* format, format_of(file, h));
    if (h.type_size != format->type_size)
        YL_CHECK(rules.broken(fmt::format("typeSize is {}; {} needs {}", h.type_size, format->name,
                                          format->type_size),
                              16));
    if (h.width == 0)
        return wrong("pixelWidth is 0", 20);
    if (h.height == 0 && (h.depth != 0 || h.faces != 1 || format->is_block()))
        return wrong("pixelHeight is 0 in a volume, a cube or a format of blocks", 24);
    if (h.faces != 1 && h.faces != 6)
        return wrong(fmt::format("faceCount is {}; it has to be 1 or 6", h.faces), 36);
    if (h.depth != 0 && (h.layers != 0 || h.faces != 1))
        return wrong(fmt::format("pixelDepth is {} in an array or a cube", h.depth), 28);
    const TextureShape shape =
        ktx_shape(format->format, {h.width, h.height, h.depth}, h.layers, h.faces, h.levels);
    const std::uint32_t most = full_level_count(shape.width, shape.height, shape.depth);
    if (shape.levels > most)
        return wrong(fmt::format("levelCount is {}; {} x {} x {} texels have at most {}", h.levels,
                                 shape.width, shape.height, shape.depth, most),
                     40);
    if (auto sound = check_shape(shape, limits); !sound)
        return fail(
            sound.error().kind == ErrorKind::usage ? ErrorKind::malformed : sound.error().kind,
            sound.error().message, 20);
    if (h.scheme != 0 && h.scheme != 2 && h.scheme != 3)
        return fail(
            ErrorKind::unsupported,
            fmt::format(
                "supercompressionScheme is {}; 0 (none), 2 (Zstandard) and 3 (zlib) are handled",
                h.scheme),
            44);
    return shape;
}

/// Why a section cannot lie there.
Status check_section(const ByteSource& file, const Section& section, const char* name,
                     std::uint64_t first_offset, std::uint64_t field_offset) {
    const CheckedSize end = CheckedSize(section.offset) + section.length;
    if (section.offset < first_offset || !end.fits(file.size()))
        return wrong(fmt::format("{} gives {} bytes at offset {}; they have to lie between {} and "
                                 "the file's end at {}",
                                 name, section.length, section.offset, first_offset, file.size()),
                     field_offset);
    return {};
}

/// The smallest level comes first, so that it can be shown while the others are on their way.
Status check_level_order(const Header& h, const Rules& rules) {
    for (std::size_t level = 1; level < h.level_index.size(); ++level)
        if (h.level_index[level].section.offset > h.level_index[level - 1].section.offset)
            return rules.broken(
                fmt::format("level {} lies at offset {}, behind level {} at {}; smaller levels "
                            "have to come first",
                            level, h.level_index[level].section.offset, level - 1,
                            h.level_index[level - 1].section.offset),
                header_bytes + level * level_entry_bytes);
    return {};
}

Status check_no_overlap(const Header& h) {
    std::vector<Section> sections = {h.descriptor, h.key_values};
    for (const LevelEntry& entry : h.level_index)
        sections.push_back(entry.section);
    std::erase_if(sections, [](const Section& section) { return section.length == 0; });
    std::sort(sections.begin(), sections.end(),
              [](const Section& a, const Section& b) { return a.offset < b.offset; });
    for (std::size_t i = 1; i < sections.size(); ++i)
        if (sections[i - 1].offset + sections[i - 1].length > sections[i].offset)
            return wrong(
                fmt::format("two sections overlap: one of {} bytes at {} and one at {}",
                            sections[i - 1].length, sections[i - 1].offset, sections[i].offset),
                header_bytes);
    return {};
}

Status read_level_index(ByteReader& reader, const ByteSource& file, const TextureShape& shape,
                        Supercompression scheme, const Rules& rules, Header& h) {
    const std::uint64_t index_end = header_bytes + std::uint64_t{shape.levels} * level_entry_bytes;
    const std::uint64_t alignment = level_alignment(shape.format, scheme);
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        const std::uint64_t field = reader.offset();
        LevelEntry entry;
        YL_TRY(entry.section.offset, reader.read<std::uint64_t>());
        YL_TRY(entry.section.length, reader.read<std::uint64_t>());
        YL_TRY(entry.unpacked, reader.read<std::uint64_t>());
        YL_CHECK(check_section(file, entry.section, fmt::format("level {}", level).c_str(),
                               index_end, field));
        if (entry.section.offset % alignment != 0)
            YL_CHECK(rules.broken(
                fmt::format("level {} begins at offset {}, which is not a multiple of {}", level,
                            entry.section.offset, alignment),
                field));
        if (entry.unpacked != shape.level_bytes(level))
            return wrong(
                fmt::format("uncompressedByteLength of level {} is {}; its size and format need {}",
                            level, entry.unpacked, shape.level_bytes(level)),
                field + 16);
        if (scheme == Supercompression::none && entry.section.length != entry.unpacked)
            return wrong(
                fmt::format(
                    "byteLength of level {} is {}; without supercompression it has to be {}", level,
                    entry.section.length, entry.unpacked),
                field + 8);
        h.level_index.push_back(entry);
    }
    YL_CHECK(check_level_order(h, rules));
    return check_no_overlap(h);
}

Status take_orientation(std::string_view text, std::uint64_t offset, TextureLayout& layout) {
    const std::uint32_t sides = layout.shape.dimensions();
    const bool known = text.size() == sides && text[0] == 'r' &&
                       (sides < 2 || text[1] == 'd' || text[1] == 'u') &&
                       (sides < 3 || text[2] == 'i');
    if (!known)
        return fail(ErrorKind::unsupported,
                    fmt::format("KTXorientation is '{}'; '{}' (row 0 at the top){} are handled",
                                printable(text), std::string_view("rdi").substr(0, sides),
                                sides == 2 ? " and 'ru'" : (sides == 3 ? " and 'rui'" : "")),
                    offset);
    layout.metadata.origin = sides >= 2 && text[1] == 'u' ? Origin::bottom : Origin::top;
    return {};
}

/// Keys of the standard whose values have a size that it settles.
struct BinaryKey {
    std::string_view key;
    std::size_t bytes;
};
constexpr BinaryKey binary_keys[] = {{"KTXglFormat", 12},
                                     {"KTXdxgiFormat__", 4},
                                     {"KTXmetalPixelFormat", 4},
                                     {"KTXanimData", 12},
                                     {"KTXcubemapIncomplete", 1}};

Status check_binary_value(std::string_view key, std::string_view value, std::uint64_t offset,
                          const Rules& rules) {
    for (const BinaryKey& known : binary_keys)
        if (known.key == key && known.bytes != value.size())
            return rules.broken(fmt::format("{} has {} bytes; the standard gives it {}", key,
                                            value.size(), known.bytes),
                                offset);
    return {};
}

/// Takes one key and its value into the texture's metadata.
Status take_entry(std::string_view key, std::string_view value, std::uint64_t offset,
                  const Rules& rules, TextureLayout& layout) {
    const auto text = value.substr(0, value.find('\0'));
    TextureMetadata& metadata = layout.metadata;
    const bool is_text = key == orientation_key || key == swizzle_key || key == writer_key;
    if (is_text && text.size() == value.size())
        YL_CHECK(rules.broken(fmt::format("{} does not end with a zero byte", key), offset));
    if (key == orientation_key)
        return take_orientation(text, offset, layout);
    if (key == swizzle_key) {
        const auto swizzle = parse_swizzle(text);
        if (!swizzle)
            return wrong(fmt::format("KTXswizzle is '{}'; it has four letters out of 'rgba01'",
                                     printable(text)),
                         offset);
        metadata.swizzle = *swizzle;
    } else if (key == sampler_key) {
        auto sampler = parse_sampler(text);
        if (!sampler)
            return wrong(fmt::format("{}: {}", key, sampler.error().message), offset);
        metadata.sampler = *sampler;
    } else if (key == alpha_key && (text == "data" || text == "opaque")) {
        metadata.alpha = text == "data" ? AlphaMode::data : AlphaMode::opaque;
    } else {
        YL_CHECK(check_binary_value(key, value, offset, rules));
        metadata.key_values.insert_or_assign(std::string(key), std::string(value));
    }
    return {};
}

Status read_key_values(ByteSpan data, std::uint64_t offset, const Rules& rules,
                       TextureLayout& layout) {
    ByteReader reader(data);
    std::string last_key;
    while (reader.left() > 0) {
        const std::uint64_t place = offset + reader.offset();
        const auto length = reader.read<std::uint32_t>();
        if (!length || *length > reader.left() || *length < 2)
            return wrong("an entry of the key/value data is longer than they are, or too short",
                         place);
        YL_TRY(const ByteSpan entry, reader.take(*length));
        const std::string_view text = as_text(entry);
        const std::size_t key_end = text.find('\0');
        if (key_end == std::string_view::npos || key_end == 0)
            return wrong("an entry of the key/value data has no key that ends with a zero byte",
                         place);
        const std::string_view key = text.substr(0, key_end);
        if (key <= last_key)
            YL_CHECK(rules.broken(fmt::format("the key {} comes after {}; keys have to be in the "
                                              "order of their bytes, each once",
                                              key, last_key),
                                  place));
        last_key = key;
        YL_CHECK(take_entry(key, text.substr(key_end + 1), place, rules, layout));
        YL_CHECK(reader.skip(std::min<std::size_t>(reader.left(), (4 - *length % 4) % 4)));
    }
    return {};
}

}  // namespace

bool recognise(ByteSpan bytes) {
    return bytes.size() >= identifier.size() &&
           std::memcmp(bytes.data(), identifier.data(), identifier.size()) == 0;
}

namespace {

/// The descriptor, held against the format; a forgiven one counts as what the format says.
Status read_descriptor(const ByteSource& file, const Header& header, std::uint64_t index_end,
                       Supercompression scheme, const Rules& rules, TextureLayout& layout) {
    YL_CHECK(check_section(file, header.descriptor, "dfdByteOffset", index_end, 48));
    std::vector<std::byte> space;
    YL_TRY(const ByteSpan descriptor,
           file.piece(header.descriptor.offset, header.descriptor.length, space));
    const auto described =
        check_descriptor(descriptor, static_cast<std::size_t>(header.descriptor.offset),
                         layout.shape.format, scheme);
    layout.metadata.transfer = yl::info(layout.shape.format).transfer;
    if (!described)
        return rules.broken(described.error().message,
                            described.error().offset.value_or(header.descriptor.offset));
    layout.metadata.transfer = described->transfer;
    layout.metadata.alpha = described->alpha;
    return {};
}

}  // namespace

Result<TextureLayout> read_header(const ByteSource& file, const TextureReadOptions& options) {
    constexpr std::size_t most_levels = 32;
    std::vector<std::byte> space;
    YL_TRY(const ByteSpan start, file.start(header_bytes + most_levels * level_entry_bytes, space));
    ByteReader reader(start);
    TextureLayout layout;
    const Rules rules(options.forgiving, layout.info.remarks);
    YL_TRY(Header header, read_fields(reader));
    YL_TRY(layout.shape, shape_of(file, header, options.limits, rules));
    const auto scheme = static_cast<Supercompression>(header.scheme);
    layout.info.supercompression = scheme;
    YL_CHECK(read_level_index(reader, file, layout.shape, scheme, rules, header));
    const std::uint64_t index_end = reader.offset();
    YL_CHECK(read_descriptor(file, header, index_end, scheme, rules, layout));
    if (header.global_data.length != 0)
        return fail(ErrorKind::unsupported,
                    "supercompression global data belong to schemes that are not handled", 64);
    if (header.levels == 0)
        layout.info.remarks.emplace_back(
            "levelCount is 0: the program is to generate the other levels");
    if (header.key_values.length != 0) {
        YL_CHECK(check_section(file, header.key_values, "kvdByteOffset", index_end, 56));
        YL_TRY(const ByteSpan data,
               file.piece(header.key_values.offset, header.key_values.length, space));
        YL_CHECK(read_key_values(data, header.key_values.offset, rules, layout));
    }
    for (std::uint32_t level = 0; level < layout.shape.levels; ++level) {
        const Section& section = header.level_index[level].section;
        layout.levels.push_back(layout.tight_place(level, section.offset, section.length));
    }
    if (scheme != Supercompression::none)
        layout.unpack = [scheme](ByteSpan packed, std::span<std::byte> target) {
            return unpack_level(packed, scheme, target);
        };
    return layout;
}

}  // namespace yl::ktx2

namespace yl {

TextureFormat ktx2_format() {
    return {"KTX 2.0", "ktx2", ktx2::recognise, ktx2::read_header, ktx2::write, ktx2::plan};
}

}  // namespace yl
