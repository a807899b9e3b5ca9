// The table of the ASTC formats.
#include <array>
#include <utility>

#include "block/astc/decode.hpp"
#include "block/astc/encode.hpp"
#include "block/block_codec.hpp"

namespace yl::astc {
namespace {

using TablesDecoder = void (*)(const FootprintTables& tables, const std::byte* blocks,
                               std::size_t count, std::byte* texels, std::size_t stride);

template <std::size_t footprint, TablesDecoder decoder>
void decode(const std::byte* blocks, std::size_t count, std::byte* texels, std::size_t stride) {
    decoder(footprint_tables<footprints[footprint].width, footprints[footprint].height>(), blocks,
            count, texels, stride);
}

using TablesEncoder = void (*)(const EncoderTables& tables, const std::byte* texels,
                               std::size_t count, const ColorSettings& settings, std::byte* blocks);

template <std::size_t footprint, TablesEncoder encoder>
void encode(const std::byte* texels, std::size_t count, const ColorSettings& settings,
            std::byte* blocks) {
    encoder(encoder_tables<footprints[footprint].width, footprints[footprint].height>(), texels,
            count, settings, blocks);
}

/// Formats of a footprint follow each other, unorm and srgb; those in floating point have numbers of
/// their own.
constexpr Format ldr_format(std::size_t footprint, bool is_srgb) {
    return static_cast<Format>(static_cast<std::size_t>(Format::astc_4x4_unorm) + 2 * footprint +
                               (is_srgb ? 1 : 0));
}
constexpr Format hdr_format(std::size_t footprint) {
    return static_cast<Format>(static_cast<std::size_t>(Format::astc_4x4_sfloat) + footprint);
}

template <std::size_t... at>
constexpr std::array<BlockCodec, 3 * sizeof...(at)> all_codecs(std::index_sequence<at...> /*n*/) {
    return {{{.format = ldr_format(at, false),
              .decoded = Format::rgba8_unorm,
              .decode = decode<at, decode_row>,
              .encode_texels = encode<at, encode_ldr>}...,
             {.format = ldr_format(at, true),
              .decoded = Format::rgba8_srgb,
              .decode = decode<at, decode_row_srgb>,
              .encode_texels = encode<at, encode_ldr>}...,
             {.format = hdr_format(at),
              .decoded = Format::rgba16_float,
              .decode = decode<at, decode_row_hdr>,
              .encode_texels = encode<at, encode_hdr>}...}};
}
constexpr auto codecs = all_codecs(std::make_index_sequence<footprints.size()>());

}  // namespace

std::span<const BlockCodec> block_codecs() {
    return codecs;
}

}  // namespace yl::astc
