// Writing DDS, with the extended header or, when asked, the old one.
#include <fmt/format.h>

#include <limits>

#include <yl/status_macros.hpp>
#include "container/dds/dds.hpp"
#include "container/dds/layout.hpp"

namespace yl::dds {
namespace {

using Words = std::array<std::uint32_t, header_words>;

Words common_words(const TextureShape& shape) {
    const FormatInfo& f = info(shape.format);
    Words words{};
    words[word_size] = 4 * header_words;
    words[word_flags] = flags_always | (f.is_block() ? flag_size : flag_pitch) |
                        (shape.levels > 1 ? flag_levels : 0) |
                        (shape.dimensions() == 3 ? flag_depth : 0);
    words[word_height] = shape.height;
    words[word_width] = shape.width;
    words[word_pitch] =
        static_cast<std::uint32_t>(f.is_block() ? shape.surface_bytes(0) : shape.row_bytes(0));
    words[word_depth] = shape.dimensions() == 3 ? shape.depth : 0;
    words[word_levels] = shape.levels;
    words[word_format_size] = 32;
    words[word_caps] =
        caps_texture | (shape.levels > 1 ? caps_levels | caps_complex : 0) |
        (shape.faces == 6 || shape.dimensions() == 3 || shape.is_array ? caps_complex : 0);
    words[word_caps2] = (shape.faces == 6 ? caps2_cube | caps2_all_faces : 0) |
                        (shape.dimensions() == 3 ? caps2_volume : 0);
    return words;
}

Status add_legacy_format(const TextureShape& shape, const TextureMetadata& metadata, Words& words) {
    const auto pixels = legacy_format(shape.format, metadata);
    if (!pixels || shape.is_array || shape.is_1d)
        return fail(ErrorKind::unsupported,
                    fmt::format("the old header of DDS cannot say {}{}; leave it to the extended "
                                "one",
                                info(shape.format).name,
                                shape.is_array ? " in an array" : (shape.is_1d ? " in 1D" : "")));
    words[word_format_flags] = pixels->flags;
    words[word_code] = pixels->code;
    words[word_bits] = pixels->bits;
    std::copy(pixels->masks.begin(), pixels->masks.end(), words.begin() + word_masks);
    return {};
}

std::uint32_t alpha_flags(Format format, AlphaMode alpha) {
    if (!info(format).has(Channel::alpha))
        return is_opaque_bc1(format) ? alpha_opaque : alpha_unknown;
    switch (alpha) {
        case AlphaMode::straight:
            return alpha_unknown;  // what old programs write, and take for straight
        case AlphaMode::premultiplied:
            return alpha_premultiplied;
        case AlphaMode::data:
            return alpha_custom;
        case AlphaMode::opaque:
            return alpha_opaque;
    }
    return alpha_unknown;
}

/// The numbers that follow the header with the code "DX10".
Result<std::array<std::uint32_t, 5>> extension_of(const TextureShape& shape, AlphaMode alpha,
                                                  Words& words) {
    const FormatInfo& f = info(shape.format);
    if (f.dxgi == 0)
        return fail(ErrorKind::unsupported,
                    fmt::format("DDS has no number for {}; KTX 2.0 holds it", f.name));
    words[word_format_flags] = format_code;
    words[word_code] = code_of("DX10");
    const std::uint32_t dimension =
        shape.is_1d ? dimension_1d : (shape.dimensions() == 3 ? dimension_3d : dimension_2d);
    return std::array<std::uint32_t, 5>{f.dxgi, dimension, shape.faces == 6 ? extension_cube : 0,
                                        shape.layers, alpha_flags(shape.format, alpha)};
}

Result<std::vector<std::byte>> head_of(const TextureShape& shape, const TextureMetadata& metadata,
                                       const TextureWriteOptions& options) {
    if (options.supercompression != Supercompression::none)
        return fail(ErrorKind::usage, "DDS has no supercompression; KTX 2.0 has");
    if (shape.surface_bytes(0) > std::numeric_limits<std::uint32_t>::max())
        return fail(ErrorKind::unsupported,
                    fmt::format("DDS counts the bytes of a surface in 32 bits, and {} x {} texels "
                                "of {} have {}; KTX 2.0 holds them",
                                shape.width, shape.height, info(shape.format).name,
                                shape.surface_bytes(0)));
    Words words = common_words(shape);
    std::array<std::uint32_t, 5> extension{};
    if (options.legacy_header) {
        YL_CHECK(add_legacy_format(shape, metadata, words));
    } else {
        YL_TRY(extension, extension_of(shape, metadata.alpha, words));
    }
    ByteWriter head;
    head.write(magic);
    for (const std::uint32_t word : words)
        head.write(word);
    for (const std::uint32_t word : extension)
        if (!options.legacy_header)
            head.write(word);
    return head.release();
}

/// Layer by layer, face by face, each with all its levels.
void add_chains(const Texture& texture, EncodedFile& file) {
    const TextureShape& shape = texture.shape();
    for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
        for (std::uint32_t face = 0; face < shape.faces; ++face)
            for (std::uint32_t level = 0; level < shape.levels; ++level) {
                const auto bytes =
                    static_cast<std::size_t>(shape.surface_bytes(level) * shape.depth_at(level));
                file.pieces.emplace_back(texture.image(level, layer, face).data, bytes);
            }
}

}  // namespace

Result<EncodedFile> write(const Texture& texture, const TextureWriteOptions& options) {
    EncodedFile file;
    YL_TRY(file.owned.emplace_back(), head_of(texture.shape(), texture.metadata, options));
    file.pieces.emplace_back(file.owned.back());
    add_chains(texture, file);
    return file;
}

Result<FilePlan> plan(const TextureShape& shape, const TextureMetadata& metadata,
                      const TextureWriteOptions& options) {
    FilePlan plan;
    YL_TRY(plan.head, head_of(shape, metadata, options));
    plan.bytes = plan.head.size();
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        plan.level_offsets.push_back(plan.bytes);
        plan.bytes += shape.level_bytes(level);
    }
    return plan;
}

}  // namespace yl::dds
