// BC1, BC2 and BC3 (Khronos Data Format Specification 1.3, sections 18.1 to 18.3).
//
// BC2 has before the colours 4 bits of alpha a texel; BC3 a block of BC4 for alpha.
#include <array>
#include <cstring>

#include "base/bytes.hpp"
#include "block/bc/bc1_palette.hpp"
#include "block/bc/bc4_values.hpp"
#include "block/bc/decode.hpp"

namespace yl::bc {
namespace {

void look_up(const Palette& palette, std::uint32_t indices, std::byte* texels, std::size_t stride) {
    for (std::size_t y = 0; y < 4; ++y, indices >>= 8) {
        const std::array<std::uint32_t, 4> row = {palette[indices & 3U], palette[indices >> 2 & 3U],
                                                  palette[indices >> 4 & 3U],
                                                  palette[indices >> 6 & 3U]};
        store_all(texels + y * stride, row);
    }
}

void decode_color(const std::byte* block, std::byte* texels, std::size_t stride, ColorForm form) {
    look_up(palette_of(block, form), load<std::uint32_t>(block + 4), texels, stride);
}

}  // namespace

void decode_bc1(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode_color(block, texels, stride, ColorForm::by_order);
}

void decode_bc1a(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode_color(block, texels, stride, ColorForm::by_order_with_cut_out);
}

void decode_bc2(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode_color(block + 8, texels, stride, ColorForm::four_colors);
    for (std::size_t y = 0; y < 4; ++y) {
        const auto alphas = load<std::uint16_t>(block + 2 * y);
        for (std::size_t x = 0; x < 4; ++x)
            texels[y * stride + 4 * x + 3] = static_cast<std::byte>((alphas >> 4 * x & 15U) * 17U);
    }
}

void decode_bc3(const std::byte* block, std::byte* texels, std::size_t stride) {
    const Palette palette = palette_of(block + 8, ColorForm::four_colors);
    const auto alphas = unorm_values(block);
    std::uint64_t alpha_indices = load<std::uint64_t>(block) >> 16;
    auto indices = load<std::uint32_t>(block + 12);
    for (std::size_t y = 0; y < 4; ++y) {
        std::array<std::uint32_t, 4> row{};
        for (std::uint32_t& texel : row) {
            texel = (palette[indices & 3U] & 0xFFFFFFU) | std::uint32_t{alphas[alpha_indices & 7U]}
                                                              << 24;
            indices >>= 2;
            alpha_indices >>= 3;
        }
        store_all(texels + y * stride, row);
    }
}

}  // namespace yl::bc
