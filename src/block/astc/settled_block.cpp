#include "block/astc/settled_block.hpp"

#include <algorithm>
#include <utility>

#include "block/astc/integer_sequence.hpp"
#include "block/astc/quantization.hpp"

namespace yl::astc {
namespace {

bool is_direct_color(EndpointMode mode) {
    return mode == EndpointMode::rgb || mode == EndpointMode::rgba;
}

int sum_of_colors(const std::array<std::uint8_t, 4>& end) {
    return end[0] + end[1] + end[2];
}

/// The numbers of endpoints, channel by channel, the low end's before the high end's; or the high end's
/// and its scale.
unsigned write_ends(const SettledBlock& settled, unsigned partition, bool is_swapped,
                    const std::array<std::uint8_t, 256>& numbers, std::uint8_t* out) {
    const auto& first = (is_swapped ? settled.high : settled.low)[partition];
    const auto& second = (is_swapped ? settled.low : settled.high)[partition];
    const bool is_gray = settled.endpoint_mode == EndpointMode::luminance ||
                         settled.endpoint_mode == EndpointMode::luminance_alpha;
    const bool has_alpha = settled.endpoint_mode == EndpointMode::rgba ||
                           settled.endpoint_mode == EndpointMode::luminance_alpha;
    unsigned count = 0;
    if (is_rgb_hdr(settled.endpoint_mode)) {
        const std::size_t own = settled.endpoint_mode == EndpointMode::rgba_hdr ? 8 : 6;
        for (std::size_t i = 0; i < own; ++i)
            out[count++] = numbers[settled.hdr[partition][i]];
        if (settled.endpoint_mode == EndpointMode::rgb_hdr_alpha) {
            out[count++] = numbers[first[3]];
            out[count++] = numbers[second[3]];
        }
        return count;
    }
    if (has_scale(settled.endpoint_mode)) {
        for (std::size_t c = 0; c < 3; ++c)
            out[count++] = numbers[second[c]];
        out[count++] = numbers[settled.scale[partition]];
        if (settled.endpoint_mode == EndpointMode::rgb_scale_alpha) {
            out[count++] = numbers[first[3]];
            out[count++] = numbers[second[3]];
        }
        return count;
    }
    for (std::size_t c = 0; c < 4; ++c) {
        if ((is_gray && (c == 1 || c == 2)) || (c == 3 && !has_alpha))
            continue;
        out[count++] = numbers[first[c]];
        out[count++] = numbers[second[c]];
    }
    return count;
}

/// Whether all partitions have their brighter end first.
bool is_turned(const SettledBlock& settled) {
    if (!is_direct_color(settled.endpoint_mode))
        return false;
    for (unsigned i = 0; i < settled.partitions; ++i)
        if (sum_of_colors(settled.high[i]) > sum_of_colors(settled.low[i]))
            return false;
    return sum_of_colors(settled.high[0]) < sum_of_colors(settled.low[0]);
}

}  // namespace

std::optional<unsigned> color_range_of(const BlockMode& mode, unsigned partitions,
                                       EndpointMode endpoint_mode) {
    BlockHead head{.mode = mode, .partitions = partitions};
    head.endpoint_modes.fill(static_cast<std::uint8_t>(endpoint_mode));
    const auto block = write_head(head, 0);
    return block ? std::optional(head.color_range) : std::nullopt;
}

void pack(const SettledBlock& settled, std::byte* out) {
    BlockHead head{.mode = all_block_modes()[settled.mode_bits],
                   .partitions = settled.partitions,
                   .seed = settled.seed,
                   .plane_channel = settled.plane_channel};
    head.endpoint_modes.fill(static_cast<std::uint8_t>(settled.endpoint_mode));
    auto block = write_head(head, settled.mode_bits);
    if (!block)
        return;  // choices without room are never made
    const bool swaps = is_turned(settled);
    const auto& numbers = color_numbers()[head.color_range];
    std::array<std::uint8_t, most_colors + 8> ends{};
    unsigned count = 0;
    for (unsigned i = 0; i < settled.partitions; ++i)
        count += write_ends(settled, i, swaps, numbers, &ends[count]);
    write_sequence(*block, head.color_begin, head.color_range, count, ends.data());

    const unsigned range = head.mode.range;
    const auto last = static_cast<unsigned>(sequence_ranges[range].levels - 1);
    std::array<std::uint8_t, most_weights> weights{};
    for (unsigned i = 0; i < head.mode.count; ++i)
        weights[i] =
            weight_number_of_rank(range, swaps ? last - settled.ranks[i] : settled.ranks[i]);
    BlockBits from_end;
    write_sequence(from_end, 0, range, head.mode.count, weights.data());
    (*block | from_end.reversed()).write(out);
}

namespace {

/// The lowest 12 bits of a block of one colour, whose ninth says that it has half floats.
constexpr unsigned single_head = 0xDFC, single_light_head = 0xFFC;

void pack_single(unsigned head, const std::array<std::uint16_t, 4>& rgba, std::byte* out) {
    BlockBits block;
    block.put(0, 12, head);
    for (unsigned i = 0; i < 4; ++i)
        block.put(12 + 13 * i, 13, 0x1FFF);
    for (unsigned c = 0; c < 4; ++c)
        block.put(64 + 16 * c, 16, rgba[c]);
    block.write(out);
}

}  // namespace

void pack_single_color(const std::array<std::uint8_t, 4>& rgba, std::byte* block) {
    std::array<std::uint16_t, 4> wide{};
    for (std::size_t c = 0; c < 4; ++c)
        wide[c] = static_cast<std::uint16_t>(rgba[c] * 257U);
    pack_single(single_head, wide, block);
}

void pack_single_light(const std::array<std::uint16_t, 4>& rgba, std::byte* block) {
    pack_single(single_light_head, rgba, block);
}

}  // namespace yl::astc
