#include "block/astc/block_head.hpp"

#include <algorithm>
#include <span>

#include "block/astc/integer_sequence.hpp"

namespace yl::astc {
namespace {

constexpr unsigned mode_size = 11, count_at = 11, seed_at = 13, seed_size = 10;
constexpr unsigned single_mode_at = 13, single_colors_at = 17;
constexpr unsigned modes_at = 23, first_modes_at = 25, first_modes_size = 4, colors_at = 29;
constexpr unsigned plane_size = 2;

/// Bits of endpoint modes that do not fit before the endpoints.
unsigned rest_of_modes(unsigned partitions, bool have_own) {
    return have_own ? 3 * partitions - first_modes_size : 0;
}

void read_endpoint_modes(const BlockBits& block, BlockHead& head, unsigned& end) {
    if (head.partitions == 1) {
        head.endpoint_modes[0] = static_cast<std::uint8_t>(block.number(single_mode_at, 4));
        return;
    }
    const unsigned classes = block.number(modes_at, 2);
    const unsigned rest = rest_of_modes(head.partitions, classes != 0);
    const unsigned first = block.number(first_modes_at, first_modes_size);
    end -= rest;
    if (classes == 0) {
        head.endpoint_modes.fill(static_cast<std::uint8_t>(first));
        return;
    }
    const unsigned bits = first | block.number(end, rest) << first_modes_size;
    for (unsigned i = 0; i < head.partitions; ++i)
        head.endpoint_modes[i] = static_cast<std::uint8_t>(
            (classes - 1 + (bits >> i & 1U)) * 4 + (bits >> (head.partitions + 2 * i) & 3U));
}

unsigned count_colors(const BlockHead& head) {
    unsigned count = 0;
    for (unsigned i = 0; i < head.partitions; ++i)
        count += numbers_of(head.endpoint_modes[i]);
    return count;
}

/// Where endpoints begin, and their range, if they have room before `end`.
bool settle_colors(BlockHead& head, unsigned end) {
    head.color_begin = head.partitions == 1 ? single_colors_at : colors_at;
    head.color_count = count_colors(head);
    if (head.color_count > most_colors || end < head.color_begin)
        return false;
    const auto range = color_range(head.color_count, end - head.color_begin);
    head.color_range = range.value_or(0);
    return range.has_value();
}

}  // namespace

std::optional<unsigned> color_range(unsigned count, unsigned bits) {
    // Of each pair of numbers and each count of bits; 0 where there is no room.
    static constexpr auto ranges = [] {
        std::array<std::array<std::uint8_t, block_bits>, most_colors / 2 + 1> table{};
        for (unsigned pairs = 1; pairs < table.size(); ++pairs)
            for (unsigned room = 0; room < block_bits; ++room)
                for (unsigned range = least_color_range; range <= greatest_color_range; ++range)
                    if (sequence_bits(range, 2 * pairs) <= room)
                        table[pairs][room] = static_cast<std::uint8_t>(range);
        return table;
    }();
    const unsigned range = ranges[count / 2][bits];
    return range == 0 ? std::nullopt : std::optional(range);
}

std::optional<BlockHead> read_head(const BlockBits& block, Footprint footprint) {
    BlockHead head;
    head.mode = all_block_modes()[block.number(0, mode_size)];
    head.partitions = block.number(count_at, 2) + 1;
    if (!head.mode.fits(footprint) ||
        (head.partitions == most_partitions && head.mode.has_two_planes))
        return {};
    unsigned end = block_bits - head.mode.bits;
    if (head.partitions > 1)
        head.seed = block.number(seed_at, seed_size);
    read_endpoint_modes(block, head, end);
    if (head.mode.has_two_planes) {
        end -= plane_size;
        head.plane_channel = block.number(end, plane_size);
    }
    if (!settle_colors(head, end))
        return {};
    return head;
}

std::optional<BlockBits> write_head(BlockHead& head, unsigned mode_bits) {
    BlockBits block;
    block.put(0, mode_size, mode_bits);
    block.put(count_at, 2, head.partitions - 1);
    unsigned end = block_bits - head.mode.bits;
    if (head.partitions == 1) {
        block.put(single_mode_at, 4, head.endpoint_modes[0]);
    } else {
        block.put(seed_at, seed_size, head.seed);
        const auto modes = std::span(head.endpoint_modes).first(head.partitions);
        const auto [least, greatest] = std::ranges::minmax(modes);
        const bool have_own = least != greatest;
        if (have_own) {
            const unsigned base = std::min(least / 4U, 2U);
            if (greatest / 4U > base + 1)
                return {};
            unsigned bits = 0;
            for (unsigned i = 0; i < head.partitions; ++i)
                bits |= (modes[i] / 4U - base) << i | (modes[i] % 4U) << (head.partitions + 2 * i);
            const unsigned rest = rest_of_modes(head.partitions, true);
            end -= rest;
            block.put(modes_at, 2, base + 1);
            block.put(first_modes_at, first_modes_size, bits & 15U);
            block.put(end, rest, bits >> first_modes_size);
        } else {
            block.put(first_modes_at, first_modes_size, least);
        }
    }
    if (head.mode.has_two_planes) {
        end -= plane_size;
        block.put(end, plane_size, head.plane_channel);
    }
    if (!settle_colors(head, end))
        return {};
    return block;
}

}  // namespace yl::astc
