// EAC: one and two channels of 11 bits.
#include "block/etc/decode.hpp"
#include "block/etc/eac_values.hpp"

namespace yl::etc {
namespace {

/// The code of 16 bits that is nearest to a code of 11 bits.
std::uint16_t widened(int code, EacKind kind) {
    const int from = eac_max(kind);
    const int to = kind == EacKind::snorm11 ? 32767 : 65535;
    const int rounding = code < 0 ? -from / 2 : from / 2;
    return static_cast<std::uint16_t>((code * to + rounding) / from);
}

template <EacKind kind, std::size_t channels>
void decode_channels(const std::byte* block, std::byte* texels, std::size_t stride) {
    for (std::size_t channel = 0; channel < channels; ++channel, block += 8, texels += 2) {
        const std::uint64_t word = word_of(block);
        const std::array<int, 8> codes = eac_values(kind, word);
        std::array<std::uint16_t, 8> values{};
        for (std::size_t i = 0; i < 8; ++i)
            values[i] = widened(codes[i], kind);
        for (std::uint32_t y = 0; y < 4; ++y)
            for (std::uint32_t x = 0; x < 4; ++x)
                store(texels + y * stride + 2 * channels * x, values[eac_index(word, x, y)]);
    }
}

}  // namespace

void decode_r11(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode_channels<EacKind::unorm11, 1>(block, texels, stride);
}

void decode_r11_snorm(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode_channels<EacKind::snorm11, 1>(block, texels, stride);
}

void decode_rg11(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode_channels<EacKind::unorm11, 2>(block, texels, stride);
}

void decode_rg11_snorm(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode_channels<EacKind::snorm11, 2>(block, texels, stride);
}

}  // namespace yl::etc
