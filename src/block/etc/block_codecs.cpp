// The table of the ETC2 and EAC formats.
#include <vector>

#include "block/block_codec.hpp"
#include "block/etc/decode.hpp"
#include "block/etc/encode.hpp"

namespace yl::etc {
namespace {

void encode_opaque(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                   std::byte* blocks) {
    encode_rgb(texels, count, settings, 2, blocks);
}

void encode_rgba(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                 std::byte* blocks) {
    encode_rgb(texels, count, settings, 4, blocks + 8);
    const std::vector<float> alphas = alphas_of(texels, count);
    encode_eac(EacKind::alpha, alphas.data(), nullptr, count,
               {.effort = settings.effort, .block_words = 4}, blocks);
}

template <EacKind kind>
void encode_channel(const float* values, const float* weights, std::size_t count,
                    const ChannelSettings& settings, std::byte* blocks) {
    encode_eac(kind, values, weights, count, settings, blocks);
}

// Colours come first and indices last; of a channel, the base, its step and its row, then indices.
constexpr BlockPart color[] = {{0, 4}, {4, 8}};
constexpr BlockPart channel[] = {{0, 2}, {2, 8}};
constexpr BlockPart halves[] = {{0, 8}, {8, 16}};
constexpr BlockPart with_alpha[] = {{0, 8}, {8, 16}, {8, 12}, {12, 16}};

constexpr RowDecoder rows_of_rgb = each_block<8, 16, decode_rgb>;
constexpr RowDecoder rows_of_cut_out = each_block<8, 16, decode_rgb_cut_out>;
constexpr RowDecoder rows_of_rgba = each_block<16, 16, decode_rgba>;

// format, what it decodes to, decoder, encoder of texels, of a channel, greatest code, parts
// clang-format off
constexpr BlockCodec codecs[] = {
    {Format::etc2_rgb8_unorm, Format::rgba8_unorm, rows_of_rgb, encode_opaque, nullptr, 255, color},
    {Format::etc2_rgb8_srgb, Format::rgba8_srgb, rows_of_rgb, encode_opaque, nullptr, 255, color},
    {Format::etc2_rgb8a1_unorm, Format::rgba8_unorm, rows_of_cut_out, encode_rgb_cut_out, nullptr, 255, color},
    {Format::etc2_rgb8a1_srgb, Format::rgba8_srgb, rows_of_cut_out, encode_rgb_cut_out, nullptr, 255, color},
    {Format::etc2_rgba8_unorm, Format::rgba8_unorm, rows_of_rgba, encode_rgba, nullptr, 255, with_alpha},
    {Format::etc2_rgba8_srgb, Format::rgba8_srgb, rows_of_rgba, encode_rgba, nullptr, 255, with_alpha},
    {Format::eac_r11_unorm, Format::r16_unorm, each_block<8, 8, decode_r11>, nullptr, encode_channel<EacKind::unorm11>, 2047, channel},
    {Format::eac_r11_snorm, Format::r16_snorm, each_block<8, 8, decode_r11_snorm>, nullptr, encode_channel<EacKind::snorm11>, 1023, channel},
    {Format::eac_rg11_unorm, Format::rg16_unorm, each_block<16, 16, decode_rg11>, nullptr, encode_channel<EacKind::unorm11>, 2047, halves},
    {Format::eac_rg11_snorm, Format::rg16_snorm, each_block<16, 16, decode_rg11_snorm>, nullptr, encode_channel<EacKind::snorm11>, 1023, halves},
};
// clang-format on

}  // namespace

std::span<const BlockCodec> block_codecs() {
    return codecs;
}

}  // namespace yl::etc
