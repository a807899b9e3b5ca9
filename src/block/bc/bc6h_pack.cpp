#include "block/bc/bc6h_pack.hpp"

#include <utility>

#include "block/bc/bc6h_modes.hpp"
#include "block/bc/block_bits.hpp"
#include "block/bc/partitions.hpp"

namespace yl::bc {
namespace {

bool differences_fit(const Bc6hChoice& choice, const Bc6hMode& mode) {
    for (std::size_t end = 1; end < mode.subsets * std::size_t{2}; ++end)
        for (std::size_t c = 0; c < 3; ++c) {
            const int difference = choice.ends[end][c] - choice.ends[0][c];
            const int limit = 1 << (mode.delta_bits[c] - 1);
            if (difference < -limit || difference >= limit)
                return false;
        }
    return true;
}

std::uint32_t index_at(std::uint64_t indices, std::size_t texel) {
    return static_cast<std::uint32_t>(indices >> 4 * texel & 15U);
}

std::uint32_t second_subset(const Bc6hChoice& choice, const Bc6hMode& mode) {
    return mode.subsets == 2 ? two_subsets[choice.partition] : 0U;
}

void swap_ends(Bc6hChoice& choice, const Bc6hMode& mode, std::size_t subset, unsigned bits) {
    std::swap(choice.ends[2 * subset], choice.ends[2 * subset + 1]);
    for (std::size_t i = 0; i < 16; ++i)
        if ((second_subset(choice, mode) >> i & 1U) == subset)
            choice.indices ^= ((std::uint64_t{1} << bits) - 1U) << 4 * i;
}

void settle_anchors(Bc6hChoice& choice, const Bc6hMode& mode, unsigned bits) {
    for (std::size_t subset = 0; subset < mode.subsets; ++subset) {
        const std::size_t anchor = subset == 0 ? 0 : anchor_of_two[choice.partition];
        if ((index_at(choice.indices, anchor) >> (bits - 1)) == 0)
            continue;
        swap_ends(choice, mode, subset, bits);
        if (!mode.is_delta || differences_fit(choice, mode))
            continue;
        swap_ends(choice, mode, subset, bits);
        choice.indices &= ~(std::uint64_t{15} << 4 * anchor);
        choice.indices |= std::uint64_t{(1U << (bits - 1)) - 1U} << 4 * anchor;
    }
}

Bc6hFields fields_of(const Bc6hChoice& choice, const Bc6hMode& mode) {
    Bc6hFields fields;
    fields.partition = choice.partition;
    for (std::size_t end = 0; end < mode.subsets * std::size_t{2}; ++end)
        for (std::size_t c = 0; c < 3; ++c) {
            const bool is_difference = mode.is_delta && end > 0;
            const int value = choice.ends[end][c] - (is_difference ? choice.ends[0][c] : 0);
            const unsigned bits = is_difference ? mode.delta_bits[c] : mode.base_bits;
            fields.endpoints[end][c] = static_cast<std::uint32_t>(value) & ((1U << bits) - 1U);
        }
    return fields;
}

void put_fields(BitSink& sink, const Bc6hFields& fields, const Bc6hLayout& layout) {
    for (std::size_t i = 0; i < layout.count; ++i) {
        const Bc6hRun& run = layout.runs[i];
        const std::uint32_t field =
            run.endpoint == 4 ? fields.partition : fields.endpoints[run.endpoint][run.channel];
        const std::uint32_t bits = field >> run.lowest & ((1U << run.count) - 1U);
        sink.put(run.is_reversed ? reversed_bits(bits, run.count) : bits, run.count);
    }
}

}  // namespace

void pack_bc6h(const Bc6hChoice& chosen, std::byte* block) {
    Bc6hChoice choice = chosen;
    const Bc6hMode& mode = bc6h_modes[choice.row];
    const unsigned index_bits = mode.subsets == 1 ? 4 : 3;
    settle_anchors(choice, mode, index_bits);
    BitSink sink;
    sink.put(mode.number, mode.number_bits);
    put_fields(sink, fields_of(choice, mode), bc6h_layouts[choice.row]);
    for (std::size_t i = 0; i < 16; ++i) {
        const bool is_anchor =
            i == 0 || (mode.subsets == 2 && i == anchor_of_two[choice.partition]);
        sink.put(index_at(choice.indices, i), index_bits - (is_anchor ? 1U : 0U));
    }
    sink.write(block);
}

}  // namespace yl::bc
