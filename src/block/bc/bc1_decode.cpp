// BC1, BC2 and BC3 (Khronos Data Format Specification 1.3, sections 18.1 to 18.3).
//
// The colour block, 8 bytes:
//   bits  0 - 15  colour 0, 5 bits of blue lowest, 6 of green, 5 of red
//        16 - 31  colour 1
//        32 - 63  2 bits a texel, from the top left, row by row
// BC2 has before it 4 bits of alpha a texel; BC3 a block of BC4 for alpha.
#include <array>
#include <cstring>

#include "base/bytes.hpp"
#include "block/bc/bc4_values.hpp"
#include "block/bc/decode.hpp"

namespace yl::bc {
namespace {

using Palette = std::array<std::uint32_t, 4>;

enum class Form { by_order, by_order_with_cut_out, four_colors };

constexpr std::uint32_t opaque = 0xFF000000U;

/// Red, green and blue, each with 16 bits to be worked in.
std::uint64_t spread(std::uint32_t color) {
    const std::uint32_t red = color >> 11;
    const std::uint32_t green = color >> 5 & 63U;
    const std::uint32_t blue = color & 31U;
    return std::uint64_t{red << 3 | red >> 2} | std::uint64_t{green << 2 | green >> 4} << 16 |
           std::uint64_t{blue << 3 | blue >> 2} << 32;
}

std::uint32_t gathered(std::uint64_t spread) {
    return static_cast<std::uint32_t>((spread & 0xFFU) | (spread >> 8 & 0xFF00U) |
                                      (spread >> 16 & 0xFF0000U));
}

/// (2 a + b) / 3, rounded to the nearest, in each of three channels.
std::uint64_t third(std::uint64_t a, std::uint64_t b) {
    const std::uint64_t sum = 2 * a + b + 0x0001'0001'0001U;
    // x / 3 for x <= 766 is x * 171 / 512, rounded down; the products need more than 16 bits.
    const auto divide = [&](unsigned shift) {
        return ((sum >> shift & 0xFFFFU) * 171U >> 9) << shift;
    };
    return divide(0) | divide(16) | divide(32);
}

std::uint64_t half(std::uint64_t a, std::uint64_t b) {
    return (a + b + 0x0001'0001'0001U) >> 1 & 0x00FF'00FF'00FFU;
}

Palette palette_of(const std::byte* block, Form form) {
    const auto c0 = load<std::uint16_t>(block);
    const auto c1 = load<std::uint16_t>(block + 2);
    const std::uint64_t a = spread(c0);
    const std::uint64_t b = spread(c1);
    if (form == Form::four_colors || c0 > c1)
        return {gathered(a) | opaque, gathered(b) | opaque, gathered(third(a, b)) | opaque,
                gathered(third(b, a)) | opaque};
    return {gathered(a) | opaque, gathered(b) | opaque, gathered(half(a, b)) | opaque,
            form == Form::by_order_with_cut_out ? 0 : opaque};
}

void look_up(const Palette& palette, std::uint32_t indices, std::byte* texels, std::size_t stride) {
    for (std::size_t y = 0; y < 4; ++y, indices >>= 8) {
        const std::array<std::uint32_t, 4> row = {palette[indices & 3U], palette[indices >> 2 & 3U],
                                                  palette[indices >> 4 & 3U],
                                                  palette[indices >> 6 & 3U]};
        std::memcpy(texels + y * stride, row.data(), sizeof row);
    }
}

void decode_color(const std::byte* block, std::byte* texels, std::size_t stride, Form form) {
    look_up(palette_of(block, form), load<std::uint32_t>(block + 4), texels, stride);
}

}  // namespace

void decode_bc1(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode_color(block, texels, stride, Form::by_order);
}

void decode_bc1a(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode_color(block, texels, stride, Form::by_order_with_cut_out);
}

void decode_bc2(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode_color(block + 8, texels, stride, Form::four_colors);
    for (std::size_t y = 0; y < 4; ++y) {
        const auto alphas = load<std::uint16_t>(block + 2 * y);
        for (std::size_t x = 0; x < 4; ++x)
            texels[y * stride + 4 * x + 3] = static_cast<std::byte>((alphas >> 4 * x & 15U) * 17U);
    }
}

void decode_bc3(const std::byte* block, std::byte* texels, std::size_t stride) {
    const Palette palette = palette_of(block + 8, Form::four_colors);
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
        std::memcpy(texels + y * stride, row.data(), sizeof row);
    }
}

}  // namespace yl::bc
