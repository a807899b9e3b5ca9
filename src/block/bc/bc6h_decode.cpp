// BC6H blocks to half floats.
#include <array>
#include <cstring>
#include <utility>

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

template <std::size_t row, std::size_t... run_numbers>
Bc6hFields read_fields(BitSource& bits, std::index_sequence<run_numbers...>) {
    Bc6hFields fields;
    const auto read_run = [&]<std::size_t i>() {
        constexpr Bc6hRun run = bc6h_layouts[row].runs[i];
        std::uint32_t value = bits.take(run.count);
        if constexpr (run.is_reversed)
            value = reversed_bits(value, run.count);
        if constexpr (run.endpoint == 4)
            fields.partition = value;
        else
            fields.endpoints[run.endpoint][run.channel] |= value << run.lowest;
    };
    (read_run.template operator()<run_numbers>(), ...);
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

// Three channels at once, and one to spare.
using FourInts = int __attribute__((vector_size(16)));
using FourFloats = float __attribute__((vector_size(16)));

/// The bits of the half floats.
template <bool is_signed>
FourInts finished(FourInts values) {
    if constexpr (!is_signed)
        return ((values << 5) - values) >> 6;
    const FourInts negative = values >> 31;
    const FourInts sizes = (values ^ negative) - negative;
    return (((sizes << 5) - sizes) >> 5) | (negative & 0x8000);
}

template <std::size_t row, bool is_signed>
std::array<FourFloats, 4> widened_ends(const Bc6hFields& fields) {
    constexpr const Bc6hMode& mode = bc6h_modes[row];
    std::array<FourFloats, 4> ends{};
    for (std::size_t end = 0; end < mode.subsets * std::size_t{2}; ++end)
        for (std::size_t channel = 0; channel < 3; ++channel) {
            std::uint32_t value = fields.endpoints[end][channel];
            if (mode.is_delta && end > 0)
                value = (fields.endpoints[0][channel] + static_cast<std::uint32_t>(sign_extended(
                                                            value, mode.delta_bits[channel]))) &
                        ((1U << mode.base_bits) - 1U);
            ends[end][channel] = static_cast<float>(unquantized<is_signed>(
                is_signed ? sign_extended(value, mode.base_bits) : static_cast<int>(value),
                mode.base_bits));
        }
    return ends;
}

/// All sums stay below 2^23, so that floats hold them exactly.
template <bool is_signed>
std::uint64_t blended(FourFloats a, FourFloats b, float weight) {
    const FourFloats sum = a * (64.0F - weight) + b * weight + 32.0F;
    const FourInts halves = finished<is_signed>(__builtin_convertvector(sum, FourInts) >> 6);
    return static_cast<std::uint64_t>(halves[0]) | static_cast<std::uint64_t>(halves[1]) << 16 |
           static_cast<std::uint64_t>(halves[2]) << 32 | half_one << 48;
}

template <std::size_t row, bool is_signed>
void decode_mode(BitSource bits, std::byte* texels, std::size_t stride) {
    constexpr const Bc6hMode& mode = bc6h_modes[row];
    constexpr unsigned index_bits = mode.subsets == 1 ? 4 : 3;
    constexpr unsigned colors = 1U << index_bits;
    bits.skip(mode.number_bits);
    const Bc6hFields fields =
        read_fields<row>(bits, std::make_index_sequence<bc6h_layouts[row].count>());
    const auto ends = widened_ends<row, is_signed>(fields);
    std::array<std::uint64_t, 16> palette;
    for (std::size_t subset = 0; subset < mode.subsets; ++subset)
        for (std::size_t i = 0; i < colors; ++i)
            palette[subset * colors + i] =
                blended<is_signed>(ends[2 * subset], ends[2 * subset + 1],
                                   static_cast<float>(weights_of(index_bits)[i]));
    // Anchors' indices lack their highest bit, which is put in as 0.
    std::uint64_t indices = bits.rest();
    const auto insert = [&](unsigned anchor) {
        const std::uint64_t below =
            (std::uint64_t{1} << (anchor * index_bits + index_bits - 1)) - 1U;
        indices = (indices & below) | (indices & ~below) << 1;
    };
    insert(0);
    if (mode.subsets == 2)
        insert(anchor_of_two[fields.partition]);
    std::uint32_t subsets = mode.subsets == 2 ? two_subsets[fields.partition] : 0U;
    for (std::size_t y = 0; y < 4; ++y) {
        std::array<std::uint64_t, 4> texel_row;
        for (std::uint64_t& texel : texel_row) {
            texel = palette[(subsets & 1U) * colors % 16 + (indices & (colors - 1))];
            subsets >>= 1;
            indices >>= index_bits;
        }
        store_all(texels + y * stride, texel_row);
    }
}

using ModeDecoder = void (*)(BitSource, std::byte*, std::size_t);

template <bool is_signed, std::size_t... rows>
constexpr std::array<ModeDecoder, sizeof...(rows)> decoders_of(std::index_sequence<rows...>) {
    return {decode_mode<rows, is_signed>...};
}

template <bool is_signed>
void decode(const std::byte* block, std::byte* texels, std::size_t stride) {
    static constexpr auto decoders =
        decoders_of<is_signed>(std::make_index_sequence<bc6h_modes.size()>());
    const BitSource bits(block);
    const std::uint8_t row = mode_of_bits[bits.rest() & 31U];
    if (row != no_mode)
        return decoders[row](bits, texels, stride);
    for (std::size_t i = 0; i < 16; ++i)  // reserved: opaque black
        store(texels + i / 4 * stride + i % 4 * 8, half_one << 48);
}

}  // namespace

void decode_bc6h_ufloat(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode<false>(block, texels, stride);
}

void decode_bc6h_sfloat(const std::byte* block, std::byte* texels, std::size_t stride) {
    decode<true>(block, texels, stride);
}

}  // namespace yl::bc
