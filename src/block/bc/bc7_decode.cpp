// BC7 blocks to RGBA.
#include <algorithm>
#include <array>
#include <bit>
#include <cstring>

#include "block/bc/bc7_modes.hpp"
#include "block/bc/block_bits.hpp"
#include "block/bc/decode.hpp"
#include "block/bc/partitions.hpp"

namespace yl::bc {
namespace {

/// Four channels with 16 bits each, so that all are interpolated by one multiplication.
using Wide = std::uint64_t;

constexpr Wide low_bytes = 0x00FF'00FF'00FF'00FFU;

std::uint32_t narrow(Wide wide) {
    wide = (wide | wide >> 8) & 0x0000'FFFF'0000'FFFFU;
    return static_cast<std::uint32_t>(wide | wide >> 16);
}

Wide blended(Wide first, Wide second, std::uint32_t weight) {
    return (first * (64 - weight) + second * weight + 0x0020'0020'0020'0020U) >> 6 & low_bytes;
}

struct Endpoints {
    std::array<std::array<Wide, 2>, 3> of_subset{};
};

/// A number of few bits widened to 8 by repeating its highest ones.
std::uint32_t widened(std::uint32_t value, unsigned bits) {
    const std::uint32_t raised = value << (8 - bits);
    return raised | raised >> bits;
}

template <unsigned number>
Endpoints read_endpoints(BitSource& bits) {
    constexpr Bc7Mode mode = bc7_modes[number];
    std::array<std::array<std::uint32_t, 6>, 4> values{};
    constexpr std::size_t count = mode.subsets * std::size_t{2};
    for (std::size_t channel = 0; channel < 4; ++channel)
        if (const unsigned width = channel < 3 ? mode.color_bits : mode.alpha_bits; width > 0)
            for (std::size_t i = 0; i < count; ++i)
                values[channel][i] = bits.take(width);
    std::array<std::uint32_t, 6> extra{};
    for (std::size_t i = 0; i < count; ++i)
        if (mode.endpoint_extra != 0)
            extra[i] = bits.take(1);
        else if (mode.subset_extra != 0)
            extra[i] = i % 2 == 0 ? bits.take(1) : extra[i - 1];
    constexpr unsigned more = mode.endpoint_extra + mode.subset_extra;
    Endpoints result;
    for (std::size_t i = 0; i < count; ++i) {
        Wide wide = 0;
        for (unsigned channel = 0; channel < 4; ++channel) {
            const unsigned width = channel < 3 ? mode.color_bits : mode.alpha_bits;
            const std::uint32_t value =
                width == 0 ? 255U
                           : widened(values[channel][i] << more | (more != 0 ? extra[i] : 0U),
                                     width + more);
            wide |= Wide{value} << 16 * channel;
        }
        result.of_subset[i / 2][i % 2] = wide;
    }
    return result;
}

/// Where an index has a bit less, in rising order.
template <std::size_t subsets>
std::array<unsigned, subsets> anchors_of(std::size_t partition) {
    if constexpr (subsets == 1)
        return {0};
    if constexpr (subsets == 2)
        return {0, anchor_of_two[partition]};
    if constexpr (subsets == 3) {
        const unsigned a = second_anchor_of_three[partition];
        const unsigned b = third_anchor_of_three[partition];
        return {0, std::min(a, b), std::max(a, b)};
    }
}

/// Two bits a texel.
template <std::size_t subsets>
std::uint32_t subsets_of(std::size_t partition) {
    if constexpr (subsets == 3)
        return three_subsets[partition];
    if constexpr (subsets == 1)
        return 0;
    std::uint32_t spread = two_subsets[partition];
    spread = (spread | spread << 8) & 0x00FF00FFU;
    spread = (spread | spread << 4) & 0x0F0F0F0FU;
    spread = (spread | spread << 2) & 0x33333333U;
    return (spread | spread << 1) & 0x55555555U;
}

/// The bits of all indices, each with its full width: anchors' highest bits are put in as 0. The
/// anchors come in rising order.
template <unsigned width, std::size_t count>
std::uint64_t read_indices(BitSource& bits, const std::array<unsigned, count>& anchors) {
    std::uint64_t indices = bits.rest();
    for (const unsigned anchor : anchors) {
        const std::uint64_t below = (std::uint64_t{1} << (anchor * width + width - 1)) - 1U;
        indices = (indices & below) | (indices & ~below) << 1;
    }
    bits.skip(16 * width - static_cast<unsigned>(count));
    return indices;
}

/// Subsets with one index for all four channels: every colour that occurs is made once.
template <unsigned number>
void decode_subsets(BitSource bits, std::byte* texels, std::size_t stride) {
    constexpr Bc7Mode mode = bc7_modes[number];
    constexpr unsigned colors = 1U << mode.index_bits;
    constexpr const std::uint8_t* weights = weights_of(mode.index_bits);
    const std::size_t partition = bits.take(mode.partition_bits);
    const Endpoints endpoints = read_endpoints<number>(bits);
    std::uint64_t indices =
        read_indices<mode.index_bits>(bits, anchors_of<mode.subsets>(partition));
    std::array<std::uint32_t, 4 * colors> palette;  // the fourth subset is none
    for (std::size_t subset = 0; subset < mode.subsets; ++subset)
        for (std::size_t i = 0; i < colors; ++i)
            palette[subset * colors + i] = narrow(blended(
                endpoints.of_subset[subset][0], endpoints.of_subset[subset][1], weights[i]));
    std::uint32_t subsets = subsets_of<mode.subsets>(partition);
    for (std::size_t y = 0; y < 4; ++y) {
        std::array<std::uint32_t, 4> row;
        for (std::uint32_t& texel : row) {
            texel = palette[(subsets & 3U) * colors + (indices & (colors - 1))];
            subsets >>= 2;
            indices >>= mode.index_bits;
        }
        store_all(texels + y * stride, row);
    }
}

/// Colour and alpha with indices of their own; alpha may have changed places with a colour.
template <unsigned number>
void decode_planes(BitSource bits, std::byte* texels, std::size_t stride) {
    constexpr Bc7Mode mode = bc7_modes[number];
    const unsigned rotation = bits.take(mode.rotation_bits);
    const bool swapped = bits.take(mode.selection_bits) != 0;
    const Endpoints endpoints = read_endpoints<number>(bits);
    std::uint64_t color = read_indices<mode.index_bits>(bits, anchors_of<1>(0));
    std::uint64_t alpha = read_indices<mode.second_index_bits>(bits, anchors_of<1>(0));
    unsigned color_bits = mode.index_bits, alpha_bits = mode.second_index_bits;
    if (swapped) {
        std::swap(color, alpha);
        std::swap(color_bits, alpha_bits);
    }
    const auto& [first, second] = endpoints.of_subset[0];
    std::array<std::uint32_t, 8> colors, alphas;
    for (std::size_t i = 0; i < (1U << color_bits); ++i)
        colors[i] = narrow(blended(first, second, weights_of(color_bits)[i])) & 0xFFFFFFU;
    for (std::size_t i = 0; i < (1U << alpha_bits); ++i)
        alphas[i] = static_cast<std::uint32_t>(
                        blended(first >> 48, second >> 48, weights_of(alpha_bits)[i]))
                    << 24;
    const unsigned place = rotation == 0 ? 24 : 8 * (rotation - 1);
    for (std::size_t i = 0; i < 16; ++i) {
        std::uint32_t texel =
            colors[color & ((1U << color_bits) - 1U)] | alphas[alpha & ((1U << alpha_bits) - 1U)];
        color >>= color_bits;
        alpha >>= alpha_bits;
        if (rotation != 0) {
            const std::uint32_t difference = (texel >> place ^ texel >> 24) & 0xFFU;
            texel ^= difference << place | difference << 24;
        }
        store(texels + i / 4 * stride + i % 4 * 4, texel);
    }
}

}  // namespace

void decode_bc7(const std::byte* block, std::byte* texels, std::size_t stride) {
    const auto first = std::to_integer<std::uint32_t>(block[0]);
    if (first == 0) {  // the reserved mode: transparent black
        for (std::size_t y = 0; y < 4; ++y)
            std::memset(texels + y * stride, 0, 16);
        return;
    }
    const auto number = static_cast<unsigned>(std::countr_zero(first));
    BitSource bits(block);
    bits.skip(number + 1);
    using ModeDecoder = void (*)(BitSource, std::byte*, std::size_t);
    static constexpr ModeDecoder decoders[] = {
        decode_subsets<0>, decode_subsets<1>, decode_subsets<2>, decode_subsets<3>,
        decode_planes<4>,  decode_planes<5>,  decode_subsets<6>, decode_subsets<7>};
    decoders[number](bits, texels, stride);
}

}  // namespace yl::bc
