// Texels of high dynamic range (Khronos Data Format Specification 1.3, section 23.19): channels are
// mixed in 16 bits, and are fractions of 65,536 or, in high dynamic range, nearly logarithms.
#include <algorithm>

#include "base/bytes.hpp"
#include "block/astc/block_texels.hpp"
#include "block/astc/decode.hpp"
#include "block/astc/half_logarithm.hpp"

namespace yl::astc {
namespace {

using Halves = std::array<std::uint16_t, 4>;

constexpr std::uint16_t half_one = 0x3C00;
constexpr Halves error_color = {half_one, 0, half_one, half_one};

/// A fraction of 65,536 as a half float, rounded towards 0; the greatest is 1.
std::uint16_t half_of_fraction(unsigned value) {
    if (value == 0xFFFF)
        return half_one;
    if (value < 4)  // less than the least half with a leading one: 2^-14
        return static_cast<std::uint16_t>(value << 8);
    const auto digits = static_cast<unsigned>(std::bit_width(value));
    const unsigned mantissa = digits > 11 ? value >> (digits - 11) : value << (11 - digits);
    return static_cast<std::uint16_t>((digits - 2) << 10 | (mantissa & 0x3FFU));
}

std::uint16_t mixed(int low, int high, int weight, bool is_hdr) {
    const auto wide = [&](int value) { return is_hdr ? value << 4 : value << 8 | value; };
    const auto sum =
        static_cast<unsigned>((wide(low) * (64 - weight) + wide(high) * weight + 32) >> 6);
    return is_hdr ? half_of_logarithm(sum) : half_of_fraction(sum);
}

Halves decode_single_color(const BlockBits& block) {
    const SingleColor single = read_single_color(block);
    if (!single.is_sound)
        return error_color;
    Halves color = single.color;
    if (!single.is_hdr)
        for (std::uint16_t& channel : color)
            channel = half_of_fraction(channel);
    return color;
}

void decode_block(const FootprintTables& tables, const BlockBits& block, BlockTexels& texels,
                  std::byte* out, std::size_t stride) {
    const Footprint footprint = tables.footprint();
    const bool is_single = block.at(0, 9) == void_extent_bits;
    const auto head = is_single ? std::nullopt : read_head(block, footprint);
    const Halves single = is_single ? decode_single_color(block) : error_color;
    if (head)
        read_texels(block, *head, tables, texels);
    for (std::size_t i = 0; i < footprint.texels(); ++i) {
        std::byte* texel = out + i / footprint.width * stride + i % footprint.width * 8;
        Halves halves = single;
        if (head) {
            const Endpoints& ends =
                texels.ends[texels.partitions == nullptr ? 0 : texels.partitions[i]];
            for (std::size_t c = 0; c < 4; ++c)
                halves[c] =
                    mixed(ends.low[c], ends.high[c],
                          c == texels.plane_channel ? texels.second_weights[i] : texels.weights[i],
                          c == 3 ? ends.has_hdr_alpha : ends.is_hdr);
        }
        store_all(texel, halves);
    }
}

}  // namespace

void decode_row_hdr(const FootprintTables& tables, const std::byte* blocks, std::size_t count,
                    std::byte* texels, std::size_t stride) {
    BlockTexels scratch;
    for (std::size_t i = 0; i < count; ++i)
        decode_block(tables, BlockBits(blocks + 16 * i), scratch,
                     texels + i * tables.footprint().width * 8, stride);
}

}  // namespace yl::astc
