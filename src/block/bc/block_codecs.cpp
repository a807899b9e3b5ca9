// The table of the BC formats.
#include "base/bytes.hpp"
#include "block/bc/decode.hpp"
#include "block/bc/encode.hpp"
#include "block/block_codec.hpp"

#include <vector>

namespace yl::bc {
namespace {

/// BC2: 4 bits of alpha a texel.
void encode_explicit_alpha(const std::byte* texels, std::size_t count, std::byte* blocks) {
    for (std::size_t block = 0; block < count; ++block) {
        std::uint64_t bits = 0;
        for (std::size_t i = 0; i < texels_of_block; ++i) {
            const auto alpha =
                std::to_integer<std::uint64_t>(texels[(block * texels_of_block + i) * 4 + 3]);
            bits |= (alpha * 15 + 127) / 255 << 4 * i;
        }
        store(blocks + block * 16, bits);
    }
}

void encode_bc2(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                std::byte* blocks) {
    encode_bc3_color(texels, count, settings, blocks);
    encode_explicit_alpha(texels, count, blocks);
}

void encode_bc3(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                std::byte* blocks) {
    encode_bc3_color(texels, count, settings, blocks);
    const std::vector<float> alphas = alphas_of(texels, count);
    encode_bc4(alphas.data(), nullptr, count, {.effort = settings.effort, .block_words = 4},
               blocks);
}

template <bool is_signed>
void encode_light(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                  std::byte* blocks) {
    encode_bc6h(texels, count, {.effort = settings.effort, .is_signed = is_signed}, blocks);
}

// The colours of BC1 are its first half, the indices the second; BC4 has two ends and six bytes of
// indices. BC7 and BC6H begin with mode and ends, and end with indices.
constexpr BlockPart color[] = {{0, 4}, {4, 8}};
constexpr BlockPart channel[] = {{2, 8}};
constexpr BlockPart halves[] = {{0, 8}, {8, 16}};
constexpr BlockPart with_alpha[] = {{0, 8}, {8, 16}, {8, 12}, {12, 16}};
constexpr BlockPart tail[] = {{0, 8}, {8, 16}, {10, 16}, {0, 5}, {12, 16}};

constexpr RowDecoder rows_of_bc1 = each_block<8, 16, decode_bc1>;
constexpr RowDecoder rows_of_bc1a = each_block<8, 16, decode_bc1a>;
constexpr RowDecoder rows_of_bc2 = each_block<16, 16, decode_bc2>;
constexpr RowDecoder rows_of_bc7 = each_block<16, 16, decode_bc7>;

// format, what it decodes to, decoder, encoder of texels, of a channel, greatest code, parts
// clang-format off
constexpr BlockCodec codecs[] = {
    {Format::bc1_unorm, Format::rgba8_unorm, rows_of_bc1, encode_bc1, nullptr, 255, color},
    {Format::bc1_srgb, Format::rgba8_srgb, rows_of_bc1, encode_bc1, nullptr, 255, color},
    {Format::bc1a_unorm, Format::rgba8_unorm, rows_of_bc1a, encode_bc1a, nullptr, 255, color},
    {Format::bc1a_srgb, Format::rgba8_srgb, rows_of_bc1a, encode_bc1a, nullptr, 255, color},
    {Format::bc2_unorm, Format::rgba8_unorm, rows_of_bc2, encode_bc2, nullptr, 255, with_alpha},
    {Format::bc2_srgb, Format::rgba8_srgb, rows_of_bc2, encode_bc2, nullptr, 255, with_alpha},
    {Format::bc3_unorm, Format::rgba8_unorm, decode_bc3_row, encode_bc3, nullptr, 255, with_alpha},
    {Format::bc3_srgb, Format::rgba8_srgb, decode_bc3_row, encode_bc3, nullptr, 255, with_alpha},
    {Format::bc4_unorm, Format::r8_unorm, decode_bc4_row, nullptr, encode_bc4, 255, channel},
    {Format::bc4_snorm, Format::r8_snorm, decode_bc4_snorm_row, nullptr, encode_bc4, 127, channel},
    {Format::bc5_unorm, Format::rg8_unorm, decode_bc5_row, nullptr, encode_bc4, 255, halves},
    {Format::bc5_snorm, Format::rg8_snorm, decode_bc5_snorm_row, nullptr, encode_bc4, 127, halves},
    {Format::bc6h_ufloat, Format::rgba16_float, each_block<16, 32, decode_bc6h_ufloat>, encode_light<false>, nullptr, 0, tail},
    {Format::bc6h_sfloat, Format::rgba16_float, each_block<16, 32, decode_bc6h_sfloat>, encode_light<true>, nullptr, 0, tail},
    {Format::bc7_unorm, Format::rgba8_unorm, rows_of_bc7, encode_bc7, nullptr, 255, tail},
    {Format::bc7_srgb, Format::rgba8_srgb, rows_of_bc7, encode_bc7, nullptr, 255, tail},
};
// clang-format on

}  // namespace

std::span<const BlockCodec> block_codecs() {
    return codecs;
}

}  // namespace yl::bc
