// BC7 blocks to RGBA.
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

Endpoints read_endpoints(BitSource& bits, const Bc7Mode& mode) {
    std::array<std::array<std::uint32_t, 6>, 4> values{};
    const std::size_t count = mode.subsets * std::size_t{2};
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
    const unsigned more = mode.endpoint_extra + mode.subset_extra;
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

/// Where an index has a bit less.
std::uint32_t anchors_of(const Bc7Mode& mode, std::size_t partition) {
    if (mode.subsets == 2)
        return 1U | 1U << anchor_of_two[partition];
    if (mode.subsets == 3)
        return 1U | 1U << second_anchor_of_three[partition] |
               1U << third_anchor_of_three[partition];
    return 1U;
}

/// Two bits a texel.
std::uint32_t subsets_of(const Bc7Mode& mode, std::size_t partition) {
    if (mode.subsets == 3)
        return three_subsets[partition];
    if (mode.subsets == 1)
        return 0;
    std::uint32_t spread = two_subsets[partition];
    spread = (spread | spread << 8) & 0x00FF00FFU;
    spread = (spread | spread << 4) & 0x0F0F0F0FU;
    spread = (spread | spread << 2) & 0x33333333U;
    return (spread | spread << 1) & 0x55555555U;
}

using Indices = std::array<std::uint8_t, 16>;

Indices read_indices(BitSource& bits, unsigned width, std::uint32_t anchors) {
    Indices indices{};
    std::uint64_t rest = bits.rest();
    unsigned used = 0;
    for (std::uint8_t& index : indices) {
        const unsigned count = width - (anchors & 1U);
        index = static_cast<std::uint8_t>(rest & ((1U << count) - 1U));
        rest >>= count;
        used += count;
        anchors >>= 1;
    }
    bits.skip(used);
    return indices;
}

/// Subsets with one index for all four channels: every colour that occurs is made once.
void write_subsets(const Endpoints& endpoints, const Bc7Mode& mode, const Indices& indices,
                   std::uint32_t subsets, std::byte* texels, std::size_t stride) {
    std::array<std::uint32_t, 24> palette{};
    const unsigned colors = 1U << mode.index_bits;
    const std::uint8_t* weights = weights_of(mode.index_bits);
    for (std::size_t subset = 0; subset < mode.subsets; ++subset)
        for (std::size_t i = 0; i < colors; ++i)
            palette[subset * colors + i] = narrow(blended(
                endpoints.of_subset[subset][0], endpoints.of_subset[subset][1], weights[i]));
    for (std::size_t y = 0; y < 4; ++y) {
        std::array<std::uint32_t, 4> row{};
        for (std::size_t x = 0; x < 4; ++x, subsets >>= 2)
            row[x] = palette[(subsets & 3U) * colors + indices[4 * y + x]];
        std::memcpy(texels + y * stride, row.data(), sizeof row);
    }
}

struct Planes {
    unsigned rotation;
    const std::uint8_t* color_weights;
    const std::uint8_t* alpha_weights;
    Indices color, alpha;
};

/// Colour and alpha with indices of their own; alpha may have changed places with a colour.
void write_planes(const Endpoints& endpoints, const Planes& planes, std::byte* texels,
                  std::size_t stride) {
    const auto& [first, second] = endpoints.of_subset[0];
    for (std::size_t i = 0; i < 16; ++i) {
        const Wide color = blended(first, second, planes.color_weights[planes.color[i]]);
        const Wide alpha =
            blended(first >> 48, second >> 48, planes.alpha_weights[planes.alpha[i]]);
        std::uint32_t texel = (narrow(color) & 0xFFFFFFU) | static_cast<std::uint32_t>(alpha) << 24;
        if (planes.rotation != 0) {
            const unsigned place = 8 * (planes.rotation - 1);
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
    const Bc7Mode& mode = bc7_modes[number];
    BitSource bits(block);
    bits.skip(number + 1);
    const std::size_t partition = bits.take(mode.partition_bits);
    const unsigned rotation = bits.take(mode.rotation_bits);
    const bool swapped = bits.take(mode.selection_bits) != 0;
    const Endpoints endpoints = read_endpoints(bits, mode);
    const Indices indices = read_indices(bits, mode.index_bits, anchors_of(mode, partition));
    if (mode.second_index_bits == 0) {
        write_subsets(endpoints, mode, indices, subsets_of(mode, partition), texels, stride);
        return;
    }
    Planes planes{rotation, weights_of(mode.index_bits), weights_of(mode.second_index_bits),
                  indices, read_indices(bits, mode.second_index_bits, 1U)};
    if (swapped) {
        std::swap(planes.color, planes.alpha);
        std::swap(planes.color_weights, planes.alpha_weights);
    }
    write_planes(endpoints, planes, texels, stride);
}

}  // namespace yl::bc
