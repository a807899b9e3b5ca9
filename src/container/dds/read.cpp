// Reading DDS headers, old and extended.
#include <fmt/format.h>

#include <algorithm>
#include <bit>

#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "container/dds/dds.hpp"
#include "container/dds/layout.hpp"

namespace yl::dds {
namespace {

struct Header {
    std::array<std::uint32_t, header_words> words{};
    bool is_extended = false;
    std::uint32_t dxgi = 0, dimension = 0, extension_flags = 0, array_size = 1, alpha = 0;

    [[nodiscard]] PixelFormat pixels() const {
        return {words[word_format_flags],
                words[word_code],
                words[word_bits],
                {words[word_masks], words[word_masks + 1], words[word_masks + 2],
                 words[word_masks + 3]}};
    }
};

tl::unexpected<Error> wrong(std::string message, std::size_t offset) {
    return fail(ErrorKind::malformed, std::move(message), offset);
}

Result<Header> read_words(ByteSpan bytes) {
    ByteReader reader(bytes);
    Header header;
    YL_CHECK(reader.skip(4));
    for (std::uint32_t& word : header.words) {
        YL_TRY(word, reader.read<std::uint32_t>());
    }
    if (header.words[word_size] != 4 * header_words)
        return wrong(
            fmt::format("the header's size is {}; it has to be 124", header.words[word_size]), 4);
    if (header.words[word_format_size] != 32)
        return wrong(fmt::format("the pixel format's size is {}; it has to be 32",
                                 header.words[word_format_size]),
                     4 + 4 * word_format_size);
    header.is_extended = (header.words[word_format_flags] & format_code) != 0 &&
                         header.words[word_code] == code_of("DX10");
    if (!header.is_extended)
        return header;
    for (std::uint32_t* field : {&header.dxgi, &header.dimension, &header.extension_flags,
                                 &header.array_size, &header.alpha}) {
        YL_TRY(*field, reader.read<std::uint32_t>());
    }
    if (header.dimension < dimension_1d || header.dimension > dimension_3d)
        return wrong(
            fmt::format("resourceDimension is {}; it has to be 2, 3 or 4", header.dimension),
            header_bytes + 4);
    if (header.array_size == 0)
        return wrong("arraySize is 0; it counts from 1", header_bytes + 12);
    return header;
}

bool is_cube(const Header& header) {
    return header.is_extended ? (header.extension_flags & extension_cube) != 0
                              : (header.words[word_caps2] & caps2_cube) != 0;
}

bool is_volume(const Header& header) {
    return header.is_extended ? header.dimension == dimension_3d
                              : (header.words[word_caps2] & caps2_volume) != 0;
}

TextureShape shape_of(const Header& header, Format format) {
    TextureShape shape;
    shape.format = format;
    shape.width = header.words[word_width];
    shape.height = header.words[word_height];
    shape.levels = std::max(header.words[word_levels], 1U);
    if (is_volume(header)) {
        shape.depth = std::max(header.words[word_depth], 1U);
        shape.is_3d = shape.depth == 1;
    }
    if (header.is_extended && header.dimension == dimension_1d) {
        shape.is_1d = true;
        shape.height = 1;
    }
    shape.faces = is_cube(header) ? 6 : 1;
    shape.layers = header.array_size;
    shape.is_array = header.array_size > 1;
    return shape;
}

/// Old cubes may lack faces; those that are there follow one another.
std::uint32_t take_faces(const Header& header, TextureLayout& layout) {
    if (layout.shape.faces != 6 || header.is_extended)
        return layout.shape.faces;
    const std::uint32_t caps2 = header.words[word_caps2];
    int stored = 0;
    for (std::size_t face = 0; face < 6; ++face)
        layout.stored_face[face] = (caps2 & caps2_first_face << face) != 0 ? stored++ : -1;
    if (stored < 6)
        layout.info.remarks.push_back(
            fmt::format("the cube has {} of its 6 faces; the others are empty", stored));
    return static_cast<std::uint32_t>(stored);
}

/// Each layer's faces, in each face all levels, in each level all slices.
Status place_levels(std::uint64_t file_bytes, std::uint64_t begin, std::uint32_t stored_faces,
                    TextureLayout& layout) {
    const TextureShape& shape = layout.shape;
    const std::uint32_t expanded = layout.expansion.stored_bytes;
    const auto row_bytes = [&](std::uint32_t level) {
        return expanded != 0 ? std::uint64_t{shape.width_at(level)} * expanded
                             : shape.row_bytes(level);
    };
    std::uint64_t chain = 0;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        const std::uint64_t rows =
            ceil_div(shape.height_at(level), info(shape.format).block_height);
        LevelPlace place;
        place.row_stride = row_bytes(level);
        place.slice_stride = place.row_stride * rows;
        place.offset = begin + chain;
        chain += place.slice_stride * shape.depth_at(level);
        layout.levels.push_back(place);
    }
    const CheckedSize end = CheckedSize(chain) * stored_faces * shape.layers + begin;
    if (!end.fits(file_bytes))
        return wrong(fmt::format("the file has {} bytes; its {} levels, {} layers and {} faces "
                                 "need {}",
                                 file_bytes, shape.levels, shape.layers, stored_faces,
                                 end.value().value_or(~std::uint64_t{0})),
                     static_cast<std::size_t>(begin));
    if (end.value() < file_bytes)
        layout.info.remarks.push_back(
            fmt::format("{} bytes follow the last level", file_bytes - *end.value()));
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        LevelPlace& place = layout.levels[level];
        place.face_stride = chain;
        place.layer_stride = chain * stored_faces;
        place.length = chain * (std::uint64_t{stored_faces} * shape.layers - 1) +
                       place.slice_stride * shape.depth_at(level);
    }
    return {};
}

}  // namespace

bool recognise(ByteSpan bytes) {
    return bytes.size() >= 4 && load<std::uint32_t>(bytes.data()) == magic;
}

AlphaMode alpha_of(std::uint32_t flags, AlphaMode otherwise) {
    return flags == alpha_premultiplied ? AlphaMode::premultiplied
           : flags == alpha_opaque      ? AlphaMode::opaque
           : flags == alpha_custom      ? AlphaMode::data
                                        : otherwise;
}

Format without_holes(Format format) {
    return format == Format::bc1a_unorm  ? Format::bc1_unorm
           : format == Format::bc1a_srgb ? Format::bc1_srgb
                                         : format;
}

/// The old header says nothing of the transfer function: the role does, where there is one.
void take_transfer_of_role(std::optional<Role> role, TextureLayout& layout) {
    const auto twin = with_transfer(layout.shape.format, Transfer::srgb);
    if (!twin)
        return;  // one or two channels, which are not colours
    const bool is_color = role && info(*role).transfer == Transfer::srgb;
    if (is_color) {
        layout.shape.format = *twin;
        layout.metadata.transfer = Transfer::srgb;
    }
    layout.info.remarks.push_back(
        fmt::format("the header cannot say whether colours are sRGB: they are taken as {}",
                    is_color ? "sRGB, as the role asks for" : "linear"));
}

Result<TextureLayout> read_header(const ByteSource& file, const TextureReadOptions& options) {
    std::vector<std::byte> space;
    YL_TRY(const ByteSpan start, file.start(header_bytes + extension_bytes, space));
    YL_TRY(const Header header, read_words(start));
    YL_TRY(KnownFormat known, header.is_extended ? known_dxgi_format(header.dxgi)
                                                 : known_legacy_format(header.pixels()));
    TextureLayout layout;
    layout.shape = shape_of(header, known.format);
    const std::uint32_t most =
        full_level_count(layout.shape.width, layout.shape.height, layout.shape.depth);
    if (layout.shape.levels > most && options.forgiving) {
        layout.info.remarks.push_back(
            fmt::format("the level count is {}; {} x {} texels have at most {}",
                        layout.shape.levels, layout.shape.width, layout.shape.height, most));
        layout.shape.levels = most;
    }
    if (auto sound = check_shape(layout.shape, options.limits); !sound)
        return fail(
            sound.error().kind == ErrorKind::usage ? ErrorKind::malformed : sound.error().kind,
            sound.error().message, 4 + 4 * word_height);
    layout.metadata.transfer = info(known.format).transfer;
    layout.metadata.swizzle = known.swizzle;
    layout.metadata.alpha =
        header.is_extended ? alpha_of(header.alpha & alpha_mask, known.alpha) : known.alpha;
    if (header.is_extended && (header.alpha & alpha_mask) == alpha_opaque)
        layout.shape.format = without_holes(known.format);
    layout.expansion = std::move(known.expansion);
    if (!known.remark.empty())
        layout.info.remarks.push_back(known.remark);
    if (!header.is_extended && info(known.format).kind == NumericKind::unorm && !options.transfer)
        take_transfer_of_role(options.role, layout);
    const std::uint32_t faces = take_faces(header, layout);
    YL_CHECK(place_levels(file.size(), header_bytes + (header.is_extended ? extension_bytes : 0),
                          faces, layout));
    return layout;
}

}  // namespace yl::dds

namespace yl {

TextureFormat dds_format() {
    return {"DDS", "dds", dds::recognise, dds::read_header, dds::write, dds::plan};
}

}  // namespace yl
