#include "block/bc/bc7_pack.hpp"

#include <algorithm>
#include <initializer_list>

#include "block/bc/bc7_modes.hpp"
#include "block/bc/block_bits.hpp"
#include "block/bc/partitions.hpp"

namespace yl::bc {
namespace {

constexpr std::uint64_t each_nibble = 0x1111'1111'1111'1111U;

/// The nibbles of the texels of one subset, of two.
constexpr std::array<std::uint64_t, partition_count> second_of_two = [] {
    std::array<std::uint64_t, partition_count> nibbles{};
    for (std::size_t p = 0; p < partition_count; ++p)
        for (std::size_t i = 0; i < 16; ++i)
            if ((two_subsets[p] >> i & 1U) != 0)
                nibbles[p] |= std::uint64_t{15} << 4 * i;
    return nibbles;
}();

/// And of the second and third, of three.
constexpr std::array<std::array<std::uint64_t, 2>, partition_count> others_of_three = [] {
    std::array<std::array<std::uint64_t, 2>, partition_count> nibbles{};
    for (std::size_t p = 0; p < partition_count; ++p)
        for (std::size_t i = 0; i < 16; ++i)
            if (const std::uint32_t subset = three_subsets[p] >> 2 * i & 3U; subset != 0)
                nibbles[p][subset - 1] |= std::uint64_t{15} << 4 * i;
    return nibbles;
}();

std::uint64_t nibbles_of(const Bc7Mode& mode, std::uint32_t partition, std::size_t subset) {
    if (mode.subsets == 1)
        return ~std::uint64_t{0};
    if (mode.subsets == 2)
        return subset == 1 ? second_of_two[partition] : ~second_of_two[partition];
    const auto& [second, third] = others_of_three[partition];
    return subset == 0 ? ~(second | third) : (subset == 1 ? second : third);
}

std::array<std::size_t, 3> anchors_of(const Bc7Mode& mode, std::uint32_t partition) {
    if (mode.subsets == 2)
        return {0, anchor_of_two[partition], 0};
    return {0, second_anchor_of_three[partition], third_anchor_of_three[partition]};
}

std::uint32_t index_at(std::uint64_t indices, std::size_t texel) {
    return static_cast<std::uint32_t>(indices >> 4 * texel & 15U);
}

void swap_bits(std::uint32_t& bits, std::size_t place) {
    const std::uint32_t pair = bits >> place & 3U;
    bits = (bits & ~(3U << place)) | ((pair >> 1 | pair << 1) & 3U) << place;
}

constexpr std::uint32_t color_mask = 0xFFFFFFU;

/// Swaps the ends of some channels of a subset.
void swap_ends(Bc7Choice& choice, std::size_t subset, std::uint32_t channels) {
    std::uint32_t& a = choice.codes[2 * subset];
    std::uint32_t& b = choice.codes[2 * subset + 1];
    const std::uint32_t difference = (a ^ b) & channels;
    a ^= difference;
    b ^= difference;
}

/// Makes the highest bit of each anchor's index 0.
void settle_anchors(Bc7Choice& choice, const Bc7Mode& mode) {
    const auto anchors = anchors_of(mode, choice.partition);
    for (std::size_t subset = 0; subset < mode.subsets; ++subset) {
        if ((index_at(choice.indices, anchors[subset]) >> (mode.index_bits - 1)) == 0)
            continue;
        choice.indices ^= each_nibble * ((1U << mode.index_bits) - 1U) &
                          nibbles_of(mode, choice.partition, subset);
        const bool has_planes = mode.second_index_bits != 0;
        const std::uint32_t first_plane = choice.selection == 0 ? color_mask : ~color_mask;
        swap_ends(choice, subset, has_planes ? first_plane : ~0U);
        swap_bits(choice.extra, 2 * subset);
    }
    if (mode.second_index_bits == 0 ||
        (index_at(choice.second_indices, 0) >> (mode.second_index_bits - 1)) == 0)
        return;
    choice.second_indices ^= each_nibble * ((1U << mode.second_index_bits) - 1U);
    swap_ends(choice, 0, choice.selection == 0 ? ~color_mask : color_mask);
}

/// 16 nibbles, of which only the low bits are used, without the gaps between them.
std::uint64_t closed_up(std::uint64_t nibbles, unsigned bits) {
    const unsigned gap = 4 - bits;
    nibbles = (nibbles & 0x0F0F'0F0F'0F0F'0F0FU) | (nibbles & 0xF0F0'F0F0'F0F0'F0F0U) >> gap;
    nibbles = (nibbles & 0x00FF'00FF'00FF'00FFU) | (nibbles & 0xFF00'FF00'FF00'FF00U) >> 2 * gap;
    nibbles = (nibbles & 0x0000'FFFF'0000'FFFFU) | (nibbles & 0xFFFF'0000'FFFF'0000U) >> 4 * gap;
    return (nibbles & 0xFFFF'FFFFU) | nibbles >> 32 << (32 - 8 * gap);
}

std::uint64_t without_bit(std::uint64_t bits, unsigned place) {
    const std::uint64_t below = (std::uint64_t{1} << place) - 1U;
    return (bits & below) | (bits >> 1 & ~below);
}

/// `anchors`, the last one first, are indices without their highest bit.
void put_indices(BitSink& sink, std::uint64_t nibbles, unsigned bits,
                 std::initializer_list<std::size_t> anchors) {
    std::uint64_t closed = closed_up(nibbles, bits);
    unsigned count = 16 * bits;
    for (const std::size_t anchor : anchors) {
        closed = without_bit(closed, static_cast<unsigned>(anchor) * bits + bits - 1);
        --count;
    }
    sink.put(static_cast<std::uint32_t>(closed), count < 32 ? count : 32);
    if (count > 32)
        sink.put(static_cast<std::uint32_t>(closed >> 32), count - 32);
}

void put_first_indices(BitSink& sink, const Bc7Choice& choice, const Bc7Mode& mode) {
    const auto [first, second, third] = anchors_of(mode, choice.partition);
    if (mode.subsets == 1)
        put_indices(sink, choice.indices, mode.index_bits, {first});
    else if (mode.subsets == 2)
        put_indices(sink, choice.indices, mode.index_bits, {second, first});
    else
        put_indices(sink, choice.indices, mode.index_bits,
                    {std::max(second, third), std::min(second, third), first});
}

}  // namespace

void pack_bc7(const Bc7Choice& chosen, std::byte* block) {
    Bc7Choice choice = chosen;
    const Bc7Mode& mode = bc7_modes[choice.mode];
    settle_anchors(choice, mode);
    BitSink sink;
    sink.put(1U << choice.mode, choice.mode + 1);
    sink.put(choice.partition, mode.partition_bits);
    sink.put(choice.rotation, mode.rotation_bits);
    sink.put(choice.selection, mode.selection_bits);
    const std::size_t ends = mode.subsets * std::size_t{2};
    for (unsigned channel = 0; channel < 4; ++channel)
        for (std::size_t end = 0; end < ends; ++end)
            sink.put(choice.codes[end] >> 8 * channel & 0xFFU,
                     channel < 3 ? mode.color_bits : mode.alpha_bits);
    for (std::size_t end = 0; end < ends; ++end)
        if (mode.endpoint_extra != 0 || (mode.subset_extra != 0 && end % 2 == 0))
            sink.put(choice.extra >> end & 1U, 1);
    put_first_indices(sink, choice, mode);
    if (mode.second_index_bits != 0)
        put_indices(sink, choice.second_indices, mode.second_index_bits, {0});
    sink.write(block);
}

}  // namespace yl::bc
