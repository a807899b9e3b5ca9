#include "block/source_blocks.hpp"

#include "block/block_codec.hpp"

#include <algorithm>
#include <cstring>

#include <yl/normals.hpp>

namespace yl {
namespace {

/// A row of texels to the blocks that it crosses, whose first rows begin `block_bytes` apart: a piece
/// of `piece_bytes` to each. Sizes that the compiler knows are copied much faster.
template <std::size_t piece_bytes>
void deal_out(const std::byte* row, std::size_t count, std::size_t block_bytes, std::byte* blocks) {
    for (std::size_t x = 0; x < count; ++x)
        std::memcpy(blocks + x * block_bytes, row + x * piece_bytes, piece_bytes);
}

void deal_out(const std::byte* row, std::size_t count, std::size_t piece_bytes,
              std::size_t block_bytes, std::byte* blocks) {
    if (piece_bytes == 16)
        return deal_out<16>(row, count, block_bytes, blocks);
    if (piece_bytes == 32)
        return deal_out<32>(row, count, block_bytes, blocks);
    for (std::size_t x = 0; x < count; ++x)
        std::memcpy(blocks + x * block_bytes, row + x * piece_bytes, piece_bytes);
}

constexpr std::uint32_t channel_side = 4;  // of all blocks of one or two channels

/// One channel of 8 bits, as numbers.
void deal_out_codes(const std::byte* row, std::size_t texel_bytes, std::size_t width,
                    float* blocks) {
    const auto code = [&](std::size_t x) {
        return static_cast<float>(std::to_integer<int>(row[x * texel_bytes]));
    };
    std::size_t x = 0;
    for (; x + channel_side <= width; x += channel_side, blocks += texels_of_block)
        for (std::size_t i = 0; i < channel_side; ++i)
            blocks[i] = code(x + i);
    if (x < width)
        for (std::size_t i = 0; i < channel_side; ++i)
            blocks[i] = code(std::min(x + i, width - 1));
}

}  // namespace

SourceBlocks::SourceBlocks(ConstImageView image, Transfer transfer, const FormatInfo& target,
                           bool are_normals)
    : image_(image),
      target_(target),
      width_(target.block_width),
      height_(target.block_height),
      texel_format_(target.channel_count <= 2 ? Format::undefined
                                              : decoded_format(target.format).value_or(Format{})),
      transfer_(info(image.format).is_float() ? Transfer::linear : transfer),
      load_(row_codec(image.format, transfer_).load),
      texels_(row_codec(texel_format_, Transfer::linear)),
      greatest_code_(find_block_codec(target.format)->greatest_code) {
    const NormalEncoding from = normal_encoding(image.format), to = normal_encoding(target.format);
    if (!are_normals || from == to)
        return;
    scale_ = to == NormalEncoding::biased ? 0.5F : 2.0F;
    shift_ = to == NormalEncoding::biased ? 0.5F : -1.0F;
}

void SourceBlocks::read_row(std::uint32_t y, std::vector<float>& rgba) const {
    rgba.resize(std::size_t{image_.width} * 4);
    load_(image_.row(std::min(y, image_.height - 1)).data(), rgba.data(), image_.width);
    if (scale_ == 1)
        return;
    for (std::size_t i = 0; i < rgba.size(); ++i)
        rgba[i] = i % 4 == 3 ? rgba[i] : scale_ * rgba[i] + shift_;
}

void SourceBlocks::read(std::uint32_t block_y, std::byte* blocks) const {
    const std::size_t texel_bytes = info(texel_format_).block_bytes;
    const std::size_t piece_bytes = texel_bytes * width_, block_bytes = piece_bytes * height_;
    const bool as_it_is =
        scale_ == 1 &&
        ((image_.format == texel_format_ &&
          (transfer_ == Transfer::linear || info(texel_format_).transfer == Transfer::srgb)) ||
         // unorm of 8 bits whose codes are sRGB's, to an sRGB format, and linear ones to a linear
         // one
         (image_.format == Format::rgba8_unorm && texel_format_ == Format::rgba8_srgb &&
          transfer_ == Transfer::srgb));
    std::vector<float> rgba;
    std::vector<std::byte> stored;
    for (std::uint32_t y = 0; y < height_; ++y) {
        const std::byte* row =
            image_.row(std::min(block_y * height_ + y, image_.height - 1)).data();
        if (!as_it_is) {
            read_row(block_y * height_ + y, rgba);
            stored.resize(texel_bytes * image_.width);
            texels_.store(rgba.data(), stored.data(), image_.width);
            row = stored.data();
        }
        const std::size_t whole = image_.width / width_;
        std::byte* out = blocks + y * piece_bytes;
        deal_out(row, whole, piece_bytes, block_bytes, out);
        if (whole == across())
            continue;
        for (std::size_t x = 0; x < width_; ++x) {
            const std::size_t column = std::min<std::size_t>(whole * width_ + x, image_.width - 1U);
            std::memcpy(out + whole * block_bytes + x * texel_bytes, row + column * texel_bytes,
                        texel_bytes);
        }
    }
}

void SourceBlocks::read_codes(std::uint32_t block_y, float* blocks) const {
    const float scale = greatest_code_;
    const FormatInfo& f = info(image_.format);
    const bool are_codes = f.kind == NumericKind::unorm && target_.kind == NumericKind::unorm &&
                           scale == 255 && f.type_size == 1 &&
                           f.channels[0].channel == Channel::red &&
                           f.transfer == Transfer::linear && transfer_ == Transfer::linear;
    std::vector<float> rgba;
    for (std::uint32_t y = 0; y < channel_side; ++y) {
        const std::uint32_t row_y = std::min(block_y * channel_side + y, image_.height - 1);
        if (!are_codes)
            read_row(row_y, rgba);
        for (std::size_t channel = 0; channel < target_.channel_count; ++channel) {
            float* out = blocks + channel * across() * texels_of_block + y * channel_side;
            if (are_codes && channel < f.channel_count) {
                deal_out_codes(image_.row(row_y).data() + channel, f.block_bytes, image_.width,
                               out);
                continue;
            }
            if (are_codes)
                rgba.assign(std::size_t{image_.width} * 4, 0.0F);
            for (std::size_t x = 0; x < across() * channel_side; ++x) {
                const std::size_t column = std::min<std::size_t>(x, image_.width - 1);
                out[x / channel_side * texels_of_block + x % channel_side] =
                    rgba[column * 4 + channel] * scale;
            }
        }
    }
}

}  // namespace yl
