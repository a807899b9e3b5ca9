// Images and textures of block formats, decoded row of blocks by row of blocks.
#include <fmt/format.h>

#include <algorithm>
#include <cstring>

#include <yl/block.hpp>
#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "block/block_codec.hpp"
#include "block/etc/color_block.hpp"
#include "block/surfaces.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

constexpr std::size_t block_rows_at_least = 8;
constexpr std::size_t most_block_bytes = most_texels_of_block * 8;

void decode_row(ConstImageView blocks, ImageView pixels, std::uint32_t block_y, RowDecoder decode) {
    const FormatInfo& f = info(blocks.format);
    const std::uint32_t width = f.block_width, height = f.block_height;
    const std::size_t texel_bytes = info(pixels.format).block_bytes;
    const std::byte* block = blocks.row(block_y).data();
    std::byte* texels = pixels.data + std::size_t{block_y} * height * pixels.row_stride;
    const std::uint32_t rows = std::min(height, pixels.height - block_y * height);
    const std::uint32_t whole = rows == height ? pixels.width / width : 0;
    decode(block, whole, texels, pixels.row_stride);
    std::byte edge[most_block_bytes];
    for (std::uint32_t x = whole; x * width < pixels.width; ++x) {
        decode(block + std::size_t{x} * f.block_bytes, 1, edge, width * texel_bytes);
        const std::size_t bytes = std::min(width, pixels.width - x * width) * texel_bytes;
        for (std::uint32_t y = 0; y < rows; ++y)
            std::memcpy(texels + y * pixels.row_stride + std::size_t{x} * width * texel_bytes,
                        edge + y * width * texel_bytes, bytes);
    }
}

}  // namespace

const BlockCodec* find_block_codec(Format format) {
    for (const auto& codecs : {bc::block_codecs(), etc::block_codecs(), astc::block_codecs()}) {
        const auto found = std::ranges::find(codecs, format, &BlockCodec::format);
        if (found != codecs.end())
            return &*found;
    }
    return nullptr;
}

std::optional<Format> decoded_format(Format format) {
    const BlockCodec* codec = find_block_codec(format);
    return codec == nullptr ? std::nullopt : std::optional(codec->decoded);
}

Status decode_blocks(ConstImageView blocks, ImageView pixels) try {
    YL_CHECK(check_view(blocks, "blocks"));
    YL_CHECK(check_view(pixels, "pixels"));
    const auto format = decoded_format(blocks.format);
    if (!format)
        return fail(ErrorKind::usage,
                    fmt::format("{} is not a block format", info(blocks.format).name));
    if (pixels.format != *format || pixels.width != blocks.width || pixels.height != blocks.height)
        return fail(
            ErrorKind::usage,
            fmt::format("{} x {} texels of {} decode to as many of {}, not to {} x {} of {}",
                        blocks.width, blocks.height, info(blocks.format).name, info(*format).name,
                        pixels.width, pixels.height, info(pixels.format).name));
    const RowDecoder decode = find_block_codec(blocks.format)->decode;
    parallel_ranges(blocks.row_count(), block_rows_at_least,
                    [&](std::size_t begin, std::size_t end) {
                        for (std::size_t y = begin; y < end; ++y)
                            decode_row(blocks, pixels, static_cast<std::uint32_t>(y), decode);
                    });
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Image> decode_blocks(ConstImageView blocks) try {
    YL_CHECK(check_view(blocks, "blocks"));
    YL_TRY(Image image, Image::create(decoded_format(blocks.format).value_or(blocks.format),
                                      blocks.width, blocks.height));
    YL_CHECK(decode_blocks(blocks, image.view()));
    return image;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

namespace {

/// The blocks of 8 bytes that `counts` is true of.
template <class Predicate>
std::uint64_t count_blocks(const Texture& texture, const Predicate& counts) {
    std::uint64_t count = 0;
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level) {
        const auto blocks = texture.level(level);
        for (std::size_t at = 0; at < blocks.size(); at += 8)
            count += counts(blocks.data() + at) ? 1 : 0;
    }
    return count;
}

}  // namespace

std::uint64_t count_blocks_with_black_of_three(const Texture& texture) {
    const Format format = texture.shape().format;
    if (format != Format::bc1_unorm && format != Format::bc1_srgb)
        return 0;
    return count_blocks(texture, [](const std::byte* block) {
        const auto indices = load<std::uint32_t>(block + 4);
        // Index 3 has both of its bits set.
        return load<std::uint16_t>(block) <= load<std::uint16_t>(block + 2) &&
               (indices & (indices >> 1) & 0x55555555U) != 0;
    });
}

std::uint64_t count_blocks_beyond_etc1(const Texture& texture) {
    const Format format = texture.shape().format;
    if (format != Format::etc2_rgb8_unorm && format != Format::etc2_rgb8_srgb)
        return 0;
    return count_blocks(texture, [](const std::byte* block) {
        return etc::is_beyond_etc1(swap_bytes(load<std::uint64_t>(block)));
    });
}

Result<Texture> decode_texture(const Texture& texture) try {
    YL_CHECK(check_texture(texture, "texture"));
    const auto format = decoded_format(texture.shape().format);
    if (!format)
        return with_each_surface(texture, texture.shape().format, copy_rows);
    return with_each_surface(texture, *format, [](ConstImageView from, ImageView to) {
        return decode_blocks(from, to);
    });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
