#include "block/source_blocks.hpp"

#include "block/block_codec.hpp"

#include <algorithm>
#include <cstring>

#include <yl/normals.hpp>

namespace yl {
namespace {

/// Four texels to each block.
template <std::size_t bytes>
void deal_out(const std::byte* row, std::size_t count, std::byte* blocks) {
    for (std::size_t x = 0; x < count; ++x)
        std::memcpy(blocks + x * bytes * block_side, row + x * bytes, bytes);
}

/// One channel of 8 bits, as numbers.
void deal_out_codes(const std::byte* row, std::size_t texel_bytes, std::size_t width,
                    float* blocks) {
    const auto code = [&](std::size_t x) {
        return static_cast<float>(std::to_integer<int>(row[x * texel_bytes]));
    };
    std::size_t x = 0;
    for (; x + block_side <= width; x += block_side, blocks += block_texels)
        for (std::size_t i = 0; i < block_side; ++i)
            blocks[i] = code(x + i);
    if (x < width)
        for (std::size_t i = 0; i < block_side; ++i)
            blocks[i] = code(std::min(x + i, width - 1));
}

}  // namespace

SourceBlocks::SourceBlocks(ConstImageView image, Transfer transfer, const FormatInfo& target,
                           bool are_normals)
    : image_(image),
      target_(target),
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
    const std::size_t quad_bytes = texel_bytes * block_side;
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
    for (std::uint32_t y = 0; y < block_side; ++y) {
        const std::byte* row =
            image_.row(std::min(block_y * block_side + y, image_.height - 1)).data();
        if (!as_it_is) {
            read_row(block_y * block_side + y, rgba);
            stored.resize(texel_bytes * image_.width);
            texels_.store(rgba.data(), stored.data(), image_.width);
            row = stored.data();
        }
        const std::size_t whole = image_.width / block_side;
        std::byte* out = blocks + y * quad_bytes;
        if (texel_bytes == 4)
            deal_out<16>(row, whole, out);
        else
            deal_out<32>(row, whole, out);
        if (whole == across())
            continue;
        for (std::size_t x = 0; x < block_side; ++x) {
            const std::size_t column =
                std::min<std::size_t>(whole * block_side + x, image_.width - 1);
            std::memcpy(out + whole * quad_bytes * block_side + x * texel_bytes,
                        row + column * texel_bytes, texel_bytes);
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
    for (std::uint32_t y = 0; y < block_side; ++y) {
        const std::uint32_t row_y = std::min(block_y * block_side + y, image_.height - 1);
        if (!are_codes)
            read_row(row_y, rgba);
        for (std::size_t channel = 0; channel < target_.channel_count; ++channel) {
            float* out = blocks + channel * across() * block_texels + y * block_side;
            if (are_codes && channel < f.channel_count) {
                deal_out_codes(image_.row(row_y).data() + channel, f.block_bytes, image_.width,
                               out);
                continue;
            }
            if (are_codes)
                rgba.assign(std::size_t{image_.width} * 4, 0.0F);
            for (std::size_t x = 0; x < across() * block_side; ++x) {
                const std::size_t column = std::min<std::size_t>(x, image_.width - 1);
                out[x / block_side * block_texels + x % block_side] =
                    rgba[column * 4 + channel] * scale;
            }
        }
    }
}

}  // namespace yl
