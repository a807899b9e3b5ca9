// Rows of blocks of BC3, BC4 and BC5: the values of a block fit a register, so that all indices are
// looked up at once.
#include <array>

#include "base/bytes.hpp"
#include "block/bc/bc1_palette.hpp"
#include "block/bc/bc4_values.hpp"
#include "block/bc/decode.hpp"
#include "block/block_codec.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "block/bc/decode_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

#if HWY_TARGET != HWY_SCALAR

using Bytes = hn::FixedTag<std::uint8_t, 16>;

/// Four indices of 3 bits, a byte each.
constexpr std::array<std::uint32_t, 4096> four_indices = [] {
    std::array<std::uint32_t, 4096> table{};
    for (std::uint32_t bits = 0; bits < table.size(); ++bits)
        table[bits] =
            (bits & 7U) | (bits >> 3 & 7U) << 8 | (bits >> 6 & 7U) << 16 | (bits >> 9 & 7U) << 24;
    return table;
}();

HWY_INLINE hn::Vec<Bytes> looked_up(const std::array<std::uint8_t, 8>& values,
                                    const std::byte* block) {
    const std::uint64_t bits = yl::load<std::uint64_t>(block) >> 16;
    HWY_ALIGN std::uint8_t indices[16];
    for (std::size_t i = 0; i < 4; ++i)
        yl::store(reinterpret_cast<std::byte*>(indices + 4 * i),
                  four_indices[bits >> 12 * i & 4095U]);
    HWY_ALIGN std::uint8_t table[16];
    std::memcpy(table, values.data(), 8);
    std::memcpy(table + 8, values.data(), 8);
    return hn::TableLookupBytes(hn::Load(Bytes(), table), hn::Load(Bytes(), indices));
}

/// Rows of texels of one block.
template <std::size_t row_bytes>
HWY_INLINE void store_rows(hn::Vec<Bytes> texels, std::byte* out, std::size_t stride) {
    HWY_ALIGN std::uint8_t bytes[16];
    hn::Store(texels, Bytes(), bytes);
    for (std::size_t y = 0; y < 16 / row_bytes; ++y)
        std::memcpy(out + y * stride, bytes + y * row_bytes, row_bytes);
}

template <bool is_signed>
HWY_INLINE std::array<std::uint8_t, 8> values_of(const std::byte* block) {
    return is_signed ? snorm_values(block) : unorm_values(block);
}

template <bool is_signed>
HWY_INLINE void decode_one_channel(const std::byte* blocks, std::size_t count, std::byte* texels,
                                   std::size_t stride) {
    for (std::size_t i = 0; i < count; ++i, blocks += 8, texels += 4)
        store_rows<4>(looked_up(values_of<is_signed>(blocks), blocks), texels, stride);
}

template <bool is_signed>
HWY_INLINE void decode_two_channels(const std::byte* blocks, std::size_t count, std::byte* texels,
                                    std::size_t stride) {
    for (std::size_t i = 0; i < count; ++i, blocks += 16, texels += 8) {
        const auto red = looked_up(values_of<is_signed>(blocks), blocks);
        const auto green = looked_up(values_of<is_signed>(blocks + 8), blocks + 8);
        store_rows<8>(hn::InterleaveLower(Bytes(), red, green), texels, stride);
        store_rows<8>(hn::InterleaveUpper(Bytes(), red, green), texels + 2 * stride, stride);
    }
}

void decode_bc4_vectors(const std::byte* blocks, std::size_t count, std::byte* texels,
                        std::size_t stride) {
    decode_one_channel<false>(blocks, count, texels, stride);
}
void decode_bc4_snorm_vectors(const std::byte* blocks, std::size_t count, std::byte* texels,
                              std::size_t stride) {
    decode_one_channel<true>(blocks, count, texels, stride);
}
void decode_bc5_vectors(const std::byte* blocks, std::size_t count, std::byte* texels,
                        std::size_t stride) {
    decode_two_channels<false>(blocks, count, texels, stride);
}
void decode_bc5_snorm_vectors(const std::byte* blocks, std::size_t count, std::byte* texels,
                              std::size_t stride) {
    decode_two_channels<true>(blocks, count, texels, stride);
}

void decode_bc3_vectors(const std::byte* blocks, std::size_t count, std::byte* texels,
                        std::size_t stride) {
    for (std::size_t i = 0; i < count; ++i, blocks += 16, texels += 16) {
        HWY_ALIGN std::uint8_t alphas[16];
        hn::Store(looked_up(unorm_values(blocks), blocks), Bytes(), alphas);
        const Palette palette = palette_of(blocks + 8, ColorForm::four_colors);
        auto indices = yl::load<std::uint32_t>(blocks + 12);
        for (std::size_t y = 0; y < 4; ++y, indices >>= 8) {
            const std::array<std::uint32_t, 4> row = {
                (palette[indices & 3U] & color_bits) | std::uint32_t{alphas[4 * y]} << 24,
                (palette[indices >> 2 & 3U] & color_bits) | std::uint32_t{alphas[4 * y + 1]} << 24,
                (palette[indices >> 4 & 3U] & color_bits) | std::uint32_t{alphas[4 * y + 2]} << 24,
                (palette[indices >> 6 & 3U] & color_bits) | std::uint32_t{alphas[4 * y + 3]} << 24};
            store_all(texels + y * stride, row);
        }
    }
}

#else

void decode_bc4_vectors(const std::byte* blocks, std::size_t count, std::byte* texels,
                        std::size_t stride) {
    each_block<8, 4, decode_bc4>(blocks, count, texels, stride);
}
void decode_bc4_snorm_vectors(const std::byte* blocks, std::size_t count, std::byte* texels,
                              std::size_t stride) {
    each_block<8, 4, decode_bc4_snorm>(blocks, count, texels, stride);
}
void decode_bc5_vectors(const std::byte* blocks, std::size_t count, std::byte* texels,
                        std::size_t stride) {
    each_block<16, 8, decode_bc5>(blocks, count, texels, stride);
}
void decode_bc5_snorm_vectors(const std::byte* blocks, std::size_t count, std::byte* texels,
                              std::size_t stride) {
    each_block<16, 8, decode_bc5_snorm>(blocks, count, texels, stride);
}
void decode_bc3_vectors(const std::byte* blocks, std::size_t count, std::byte* texels,
                        std::size_t stride) {
    each_block<16, 16, decode_bc3>(blocks, count, texels, stride);
}

#endif

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::bc {

HWY_EXPORT(decode_bc3_vectors);
HWY_EXPORT(decode_bc4_vectors);
HWY_EXPORT(decode_bc4_snorm_vectors);
HWY_EXPORT(decode_bc5_vectors);
HWY_EXPORT(decode_bc5_snorm_vectors);

void decode_bc3_row(const std::byte* blocks, std::size_t count, std::byte* texels,
                    std::size_t stride) {
    HWY_DYNAMIC_DISPATCH(decode_bc3_vectors)(blocks, count, texels, stride);
}
void decode_bc4_row(const std::byte* blocks, std::size_t count, std::byte* texels,
                    std::size_t stride) {
    HWY_DYNAMIC_DISPATCH(decode_bc4_vectors)(blocks, count, texels, stride);
}
void decode_bc4_snorm_row(const std::byte* blocks, std::size_t count, std::byte* texels,
                          std::size_t stride) {
    HWY_DYNAMIC_DISPATCH(decode_bc4_snorm_vectors)(blocks, count, texels, stride);
}
void decode_bc5_row(const std::byte* blocks, std::size_t count, std::byte* texels,
                    std::size_t stride) {
    HWY_DYNAMIC_DISPATCH(decode_bc5_vectors)(blocks, count, texels, stride);
}
void decode_bc5_snorm_row(const std::byte* blocks, std::size_t count, std::byte* texels,
                          std::size_t stride) {
    HWY_DYNAMIC_DISPATCH(decode_bc5_snorm_vectors)(blocks, count, texels, stride);
}

}  // namespace yl::bc
#endif
