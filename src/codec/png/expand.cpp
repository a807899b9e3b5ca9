#include "codec/png/expand.hpp"

#include <algorithm>

namespace yl::png {
namespace {

/// The sample at `index` of a row of samples of fewer than 8 bits, the leftmost in the high bits.
std::uint32_t packed_sample(const std::byte* row, std::uint32_t index, std::uint32_t bits) {
    const std::uint32_t first_bit = index * bits;
    const auto byte = std::to_integer<std::uint32_t>(row[first_bit / 8]);
    return byte >> (8 - bits - first_bit % 8) & ((1U << bits) - 1U);
}

void expand_palette(const Header& header, const SampleMeaning& meaning, const std::byte* stored,
                    std::byte* expanded, std::uint32_t count) {
    const std::uint32_t channels = expanded_channels(header, meaning);
    for (std::uint32_t x = 0; x < count; ++x) {
        const auto index = header.bits == 8 ? std::to_integer<std::uint32_t>(stored[x])
                                            : packed_sample(stored, x, header.bits);
        for (std::uint32_t c = 0; c < channels; ++c)
            *expanded++ = std::byte{meaning.palette[index][c]};
    }
}

void expand_packed_gray(const Header& header, const SampleMeaning& meaning, const std::byte* stored,
                        std::byte* expanded, std::uint32_t count) {
    const std::uint32_t scale = 255 / ((1U << header.bits) - 1U);
    for (std::uint32_t x = 0; x < count; ++x) {
        const std::uint32_t sample = packed_sample(stored, x, header.bits);
        *expanded++ = static_cast<std::byte>(sample * scale);
        if (meaning.transparent)
            *expanded++ = sample == (*meaning.transparent)[0] ? std::byte{0} : std::byte{255};
    }
}

/// Whole samples: `Sample` as stored (big endian) becomes `Sample` in native order, and the one
/// transparent colour becomes alpha 0.
template <class Sample>
void expand_whole(const Header& header, const SampleMeaning& meaning, const std::byte* stored,
                  std::byte* expanded, std::uint32_t count) {
    const std::uint32_t samples = header.samples();
    for (std::uint32_t x = 0; x < count; ++x) {
        bool transparent = meaning.transparent.has_value();
        for (std::uint32_t c = 0; c < samples; ++c) {
            const auto sample = load<Sample, std::endian::big>(stored);
            if (transparent)
                transparent = sample == (*meaning.transparent)[c];
            store<Sample>(expanded, sample);
            stored += sizeof(Sample);
            expanded += sizeof(Sample);
        }
        if (meaning.transparent) {
            store<Sample>(expanded, transparent ? Sample{0} : static_cast<Sample>(~Sample{0}));
            expanded += sizeof(Sample);
        }
    }
}

}  // namespace

std::uint32_t expanded_channels(const Header& header, const SampleMeaning& meaning) {
    if (header.color == ColorType::palette)
        return meaning.palette_has_alpha ? 4 : 3;
    return header.samples() + (meaning.transparent ? 1 : 0);
}

std::uint32_t expanded_bits(const Header& header) {
    return header.bits == 16 ? 16 : 8;
}

bool is_expanded(const Header& header, const SampleMeaning& meaning) {
    return header.bits == 8 && header.color != ColorType::palette && !meaning.transparent;
}

void expand_row(const Header& header, const SampleMeaning& meaning, const std::byte* stored,
                std::byte* expanded, std::uint32_t count) {
    if (header.color == ColorType::palette)
        expand_palette(header, meaning, stored, expanded, count);
    else if (header.bits < 8)
        expand_packed_gray(header, meaning, stored, expanded, count);
    else if (header.bits == 8)
        expand_whole<std::uint8_t>(header, meaning, stored, expanded, count);
    else
        expand_whole<std::uint16_t>(header, meaning, stored, expanded, count);
}

}  // namespace yl::png
