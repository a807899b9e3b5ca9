// Colours are mixed sixteen texels at a time, channel by channel.
#include "block/astc/decode.hpp"

#include <algorithm>
#include <cstring>

#include <yl/format.hpp>

#include "base/bytes.hpp"
#include "block/astc/block_texels.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "block/astc/decode_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::astc::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

constexpr std::size_t together = 16;  // texels

#if HWY_TARGET != HWY_SCALAR

using Bytes = hn::FixedTag<std::uint8_t, 16>;
using HalfBytes = hn::Half<Bytes>;
using Words = hn::Repartition<std::int16_t, Bytes>;

/// One end of all partitions in one channel, for each of sixteen texels.
HWY_INLINE hn::Vec<Bytes> ends_of(const std::array<std::uint8_t, 16>& ends,
                                  hn::Vec<Bytes> partitions) {
    return hn::TableLookupBytes(hn::LoadU(Bytes(), ends.data()), partitions);
}

/// The upper 8 of 16 bits of the mixed ends. These have below their 8 bits 0x80 in sRGB, and the same
/// 8 bits again otherwise, of which nothing but a carry is left.
template <bool is_srgb>
HWY_INLINE hn::Vec<HalfBytes> mix_half(hn::Vec<HalfBytes> low, hn::Vec<HalfBytes> high,
                                       hn::Vec<HalfBytes> weights) {
    const Words words;
    const auto from = hn::PromoteTo(words, low), to = hn::PromoteTo(words, high);
    const auto weight = hn::PromoteTo(words, weights);
    const auto sum = hn::ShiftLeft<6>(from) + (to - from) * weight;
    const auto half = hn::Set(words, 32);
    const auto carry = is_srgb ? half : hn::ShiftRight<8>(sum + half);
    return hn::DemoteTo(HalfBytes(), hn::ShiftRight<6>(sum + carry));
}

template <bool is_srgb>
HWY_INLINE hn::Vec<Bytes> mix(hn::Vec<Bytes> low, hn::Vec<Bytes> high, hn::Vec<Bytes> weights) {
    const HalfBytes half;
    return hn::Combine(Bytes(),
                       mix_half<is_srgb>(hn::UpperHalf(half, low), hn::UpperHalf(half, high),
                                         hn::UpperHalf(half, weights)),
                       mix_half<is_srgb>(hn::LowerHalf(half, low), hn::LowerHalf(half, high),
                                         hn::LowerHalf(half, weights)));
}

/// Texels in steps of sixteen, with room for the last step.
template <bool is_srgb>
HWY_INLINE void mix_texels(const BlockTexels& texels, std::size_t count, std::uint8_t* rgba) {
    std::array<std::array<std::uint8_t, 16>, 4> low{}, high{};  // of channels and partitions
    for (std::size_t p = 0; p < texels.partition_count; ++p)
        for (std::size_t c = 0; c < 4; ++c) {
            low[c][p] = static_cast<std::uint8_t>(texels.ends[p].low[c]);
            high[c][p] = static_cast<std::uint8_t>(texels.ends[p].high[c]);
        }
    alignas(16) std::array<std::uint8_t, most_texels> partitions{};
    if (texels.partitions != nullptr)
        std::memcpy(partitions.data(), texels.partitions, count);
    for (std::size_t i = 0; i < count; i += together) {
        const auto partition = hn::Load(Bytes(), &partitions[i]);
        const auto weights = hn::Load(Bytes(), &texels.weights[i]);
        hn::Vec<Bytes> mixed[4];
        for (std::size_t c = 0; c < 4; ++c) {
            const auto own =
                c == texels.plane_channel ? hn::Load(Bytes(), &texels.second_weights[i]) : weights;
            mixed[c] = mix<is_srgb>(ends_of(low[c], partition), ends_of(high[c], partition), own);
        }
        hn::StoreInterleaved4(mixed[0], mixed[1], mixed[2], mixed[3], Bytes(), rgba + 4 * i);
    }
}

#else

template <bool is_srgb>
HWY_INLINE void mix_texels(const BlockTexels& texels, std::size_t count, std::uint8_t* rgba) {
    for (std::size_t i = 0; i < count; ++i) {
        const Endpoints& ends =
            texels.ends[texels.partitions == nullptr ? 0 : texels.partitions[i]];
        for (std::size_t c = 0; c < 4; ++c) {
            const int weight =
                c == texels.plane_channel ? texels.second_weights[i] : texels.weights[i];
            const int sum = ends.low[c] * (64 - weight) + ends.high[c] * weight;
            rgba[4 * i + c] =
                static_cast<std::uint8_t>((sum + (is_srgb ? 32 : (sum + 32) >> 8)) >> 6);
        }
    }
}

#endif

struct Block8 {
    alignas(16) std::array<std::uint8_t, most_texels * 4> rgba;
};

constexpr std::array<std::uint8_t, 4> error_color = {255, 0, 255, 255};

void fill(Block8& out, const std::array<std::uint8_t, 4>& color, std::size_t count) {
    for (std::size_t i = 0; i < count; ++i)
        std::copy(color.begin(), color.end(), &out.rgba[4 * i]);
}

void decode_single_color(const BlockBits& block, Block8& out, std::size_t count) {
    const SingleColor single = read_single_color(block);
    if (!single.is_sound || single.is_hdr)
        return fill(out, error_color, count);
    std::array<std::uint8_t, 4> color;
    for (std::size_t c = 0; c < 4; ++c)
        color[c] = static_cast<std::uint8_t>(single.color[c] >> 8);
    fill(out, color, count);
}

template <bool is_srgb>
void decode_block(const FootprintTables& tables, const BlockBits& block, BlockTexels& texels,
                  Block8& out) {
    const std::size_t count = tables.footprint().texels();
    if (block.at(0, 9) == void_extent_bits)
        return decode_single_color(block, out, count);
    const auto head = read_head(block, tables.footprint());
    if (!head)
        return fill(out, error_color, count);
    read_texels(block, *head, tables, texels);
    for (std::size_t p = 0; p < head->partitions; ++p)
        if (texels.ends[p].is_hdr)
            texels.ends[p].low = texels.ends[p].high = {255, 0, 255, 255};
    mix_texels<is_srgb>(texels, count, out.rgba.data());
}

template <bool is_srgb>
HWY_INLINE void decode_blocks(const FootprintTables& tables, const std::byte* blocks,
                              std::size_t count, std::byte* texels, std::size_t stride) {
    const Footprint footprint = tables.footprint();
    const std::size_t row_bytes = std::size_t{footprint.width} * 4;
    BlockTexels scratch;
    scratch.weights.fill(0);
    scratch.second_weights.fill(0);
    Block8 out;
    for (std::size_t i = 0; i < count; ++i) {
        decode_block<is_srgb>(tables, BlockBits(blocks + 16 * i), scratch, out);
        for (std::size_t y = 0; y < footprint.height; ++y)
            std::memcpy(texels + y * stride + i * row_bytes, &out.rgba[y * row_bytes], row_bytes);
    }
}

void decode_linear(const FootprintTables& tables, const std::byte* blocks, std::size_t count,
                   std::byte* texels, std::size_t stride) {
    decode_blocks<false>(tables, blocks, count, texels, stride);
}
void decode_srgb(const FootprintTables& tables, const std::byte* blocks, std::size_t count,
                 std::byte* texels, std::size_t stride) {
    decode_blocks<true>(tables, blocks, count, texels, stride);
}

}  // namespace yl::astc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::astc {

HWY_EXPORT(decode_linear);
HWY_EXPORT(decode_srgb);

void decode_row(const FootprintTables& tables, const std::byte* blocks, std::size_t count,
                std::byte* texels, std::size_t stride) {
    HWY_DYNAMIC_DISPATCH(decode_linear)(tables, blocks, count, texels, stride);
}
void decode_row_srgb(const FootprintTables& tables, const std::byte* blocks, std::size_t count,
                     std::byte* texels, std::size_t stride) {
    HWY_DYNAMIC_DISPATCH(decode_srgb)(tables, blocks, count, texels, stride);
}

}  // namespace yl::astc
#endif
