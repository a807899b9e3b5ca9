// BC6H blocks to half floats.
#include <array>

#include "block/bc/bc6h_modes.hpp"
#include "block/bc/block_bits.hpp"
#include "block/bc/decode.hpp"
#include "block/bc/partitions.hpp"

namespace yl::bc {
namespace {

constexpr std::uint64_t half_one = 0x3C00;
constexpr std::uint8_t no_mode = 0xFF;

/// The row of the table for the lowest five bits of a block.
constexpr std::array<std::uint8_t, 32> mode_of_bits = [] {
    std::array<std::uint8_t, 32> rows{};
    for (std::uint32_t bits = 0; bits < 32; ++bits) {
        rows[bits] = no_mode;
        for (std::uint8_t row = 0; row < bc6h_modes.size(); ++row)
            if ((bits & ((1U << bc6h_modes[row].number_bits) - 1U)) == bc6h_modes[row].number)
                rows[bits] = row;
    }
    return rows;
}();

Bc6hFields read_fields(BitSource& bits, const Bc6hLayout& layout) {
    Bc6hFields fields;
    for (std::size_t i = 0; i < layout.count; ++i) {
        const Bc6hRun& run = layout.runs[i];
        std::uint32_t value = bits.take(run.count);
        if (run.is_reversed)
            value = reversed_bits(value, run.count);
        if (run.endpoint == 4)
            fields.partition = value;
        else
            fields.endpoints[run.endpoint][run.channel] |= value << run.lowest;
    }
    return fields;
}

int sign_extended(std::uint32_t value, unsigned bits) {
    return static_cast<int>(value << (32 - bits)) >> (32 - bits);
}

/// A stored endpoint widened to 16 bits, or 17 with its sign.
template <bool is_signed>
int unquantized(int value, int bits) {
    if constexpr (!is_signed) {
        if (bits >= 15 || value == 0)
            return value;
        return value == (1 << bits) - 1 ? 0xFFFF : ((value << 16) + 0x8000) >> bits;
    } else {
        if (bits >= 16)
            return value;
        const int size = value < 0 ? -value : value;
        int wide = 0;
        if (size >= (1 << (bits - 1)) - 1)
            wide = 0x7FFF;
        else if (size != 0)
            wide = ((size << 15) + 0x4000) >> (bits - 1);
        return value < 0 ? -wide : wide;
    }
}

/// The bits of the half float.
template <bool is_signed>
std::uint64_t finished(int value) {
    if constexpr (!is_signed)
        return static_cast<std::uint64_t>((value * 31) >> 6);
    else if (value < 0)
        return 0x8000U | static_cast<std::uint64_t>((-value * 31) >> 5);
    else
        return static_cast<std::uint64_t>((value * 31) >> 5);
}

template <bool is_signed>
void decode(const std::byte* block, std::byte* texels, std::size_t stride) {
    BitSource bits(block);
    const std::uint8_t row = mode_of_bits[bits.rest() & 31U];
    if (row == no_mode) {  // reserved: opaque black
        for (std::size_t i = 0; i < 16; ++i)
            store(texels + i / 4 * stride + i % 4 * 8, half_one << 48);
        return;
    }
    const Bc6hMode& mode = bc6h_modes[row];
    bits.skip(mode.number_bits);
    const Bc6hFields fields = read_fields(bits, bc6h_layouts[row]);

    std::array<std::array<int, 3>, 4> ends{};
    const std::size_t end_count = mode.subsets * std::size_t{2};
    for (std::size_t channel = 0; channel < 3; ++channel)
        for (std::size_t end = 0; end < end_count; ++end) {
            std::uint32_t value = fields.endpoints[end][channel];
            if (mode.is_delta && end > 0)
                value = (fields.endpoints[0][channel] + static_cast<std::uint32_t>(sign_extended(
                                                            value, mode.delta_bits[channel]))) &
                        ((1U << mode.base_bits) - 1U);
            ends[end][channel] = unquantized<is_signed>(
                is_signed ? sign_extended(value, mode.base_bits) : static_cast<int>(value),
                mode.base_bits);
        }

    const unsigned index_bits = mode.subsets == 1 ? 4 : 3;
    const std::uint8_t* weights = weights_of(index_bits);
    std::array<std::uint64_t, 16> palette{};
    const unsigned colors = 1U << index_bits;
    for (std::size_t subset = 0; subset < mode.subsets; ++subset)
        for (std::size_t i = 0; i < colors; ++i) {
            std::uint64_t color = half_one << 48;
            for (unsigned channel = 0; channel < 3; ++channel) {
                const int a = ends[2 * subset][channel];
                const int b = ends[2 * subset + 1][channel];
                const int value = (a * (64 - weights[i]) + b * weights[i] + 32) >> 6;
                color |= finished<is_signed>(value) << 16 * channel;
            }
            palette[subset * colors + i] = color;
        }
    std::uint32_t subsets = mode.subsets == 2 ? two_subsets[fields.partition] : 0U;
    std::uint32_t anchors = 1U | (mode.subsets == 2 ? 1U << anchor_of_two[fields.partition] : 0U);
    std::uint64_t rest = bits.rest();
    for (std::size_t i = 0; i < 16; ++i, subsets >>= 1, anchors >>= 1) {
        const unsigned width = index_bits - (anchors & 1U);
        const auto index = static_cast<std::size_t>(rest & ((1U << width) - 1U));
        rest >>= width;
        store(texels + i / 4 * stride + i % 4 * 8, palette[(subsets & 1U) * colors + index]);
    }
}

}  // namespace

void decode_bc6h_ufloat(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode<false>(block, texels, stride);
}

void decode_bc6h_sfloat(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode<true>(block, texels, stride);
}

}  // namespace yl::bc
