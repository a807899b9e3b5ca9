#include "codec/png/expand.hpp"

#include <algorithm>

#include "codec/picture_format.hpp"
#include "pixel/channels.hpp"

namespace yl::png {
namespace {

/// The sample at `index` of a row of samples of fewer than 8 bits, the leftmost in the high bits.
std::uint32_t packed_sample(const std::byte* row, std::uint32_t index, std::uint32_t bits) {
    const std::uint32_t first_bit = index * bits;
    const auto byte = std::to_integer<std::uint32_t>(row[first_bit / 8]);
    return byte >> (8 - bits - first_bit % 8) & ((1U << bits) - 1U);
}

void expand_palette(const SampleMeaning& meaning, std::uint32_t channels, std::uint32_t bits,
                    const std::byte* stored, std::byte* expanded, std::uint32_t count) {
    for (std::uint32_t x = 0; x < count; ++x) {
        const auto index =
            bits == 8 ? std::to_integer<std::uint32_t>(stored[x]) : packed_sample(stored, x, bits);
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

RowExpander::RowExpander(const Header& header, const SampleMeaning& meaning, bool to_rgba)
    : header_(header),
      meaning_(meaning),
      to_rgba_(to_rgba),
      own_channels_(header.color == ColorType::palette
                        ? (meaning.palette_has_alpha ? 4U : 3U)
                        : header.samples() + (meaning.transparent ? 1U : 0U)),
      is_plain_(header.bits == 8 && header.color != ColorType::palette && !meaning.transparent) {}

void RowExpander::expand_own(const std::byte* stored, std::byte* pixels,
                             std::uint32_t count) const {
    if (header_.color == ColorType::palette)
        expand_palette(meaning_, own_channels_, header_.bits, stored, pixels, count);
    else if (header_.bits < 8)
        expand_packed_gray(header_, meaning_, stored, pixels, count);
    else if (header_.bits == 8)
        expand_whole<std::uint8_t>(header_, meaning_, stored, pixels, count);
    else
        expand_whole<std::uint16_t>(header_, meaning_, stored, pixels, count);
}

void RowExpander::expand(const std::byte* stored, std::byte* pixels, std::uint32_t count) {
    if (channels() == own_channels_)
        return expand_own(stored, pixels, count);
    if (!is_plain_) {
        own_.resize(std::size_t{count} * own_channels_ * (bits() / 8));
        expand_own(stored, own_.data(), count);
        stored = own_.data();
    }
    widen_row(plain_format({own_channels_, bits()}, Transfer::linear), stored, pixels, count);
}

}  // namespace yl::png
