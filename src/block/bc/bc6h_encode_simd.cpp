// BC6H: fourteen modes of one or two lines through half floats, taken as whole numbers: so an
// error counts by its ratio to the light, not by its amount.
#include "base/bytes.hpp"
#include "base/simd_inline.hpp"
#include "block/bc/bc6h_modes.hpp"
#include "block/bc/bc6h_pack.hpp"
#include "block/bc/encode.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "block/bc/bc6h_encode_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "block/bc/lines-inl.hpp"
#include "block/bc/partitions-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

constexpr std::size_t most_lanes = hn::MaxLanes(Floats());
constexpr std::size_t most_candidates = 16;
constexpr std::size_t light_partitions = 32;
constexpr std::int32_t max_half = 0x7BFF;

struct LightWinner {
    F error;
    I row, partition;
    I ends[4][3];
    Indices indices;
};

HWY_NOINLINE void keep_winner(const LightWinner& candidate, LightWinner& best) {
    const Mask better = candidate.error < best.error;
    if (all_false(better))
        return;
    update_where(better, candidate.error, best.error);
    update_where(better, candidate.row, best.row);
    update_where(better, candidate.partition, best.partition);
    for (std::size_t end = 0; end < 4; ++end)
        for (std::size_t c = 0; c < 3; ++c)
            update_where(better, candidate.ends[end][c], best.ends[end][c]);
    update_where(better, candidate.indices.low, best.indices.low);
    update_where(better, candidate.indices.high, best.indices.high);
}

/// Ends of a mode: as numbers of its base bits, and the 16 or 17 bits that these widen to.
template <unsigned row, bool is_signed>
struct LightMode {
    static constexpr const Bc6hMode& mode = bc6h_modes[row];
    static constexpr std::size_t subsets = mode.subsets;
    static constexpr unsigned index_bits = subsets == 1 ? 4 : 3;
    static constexpr int bits = mode.base_bits - (is_signed ? 1 : 0);  // of a magnitude
    static constexpr float full = is_signed ? 32768.0F : 65536.0F;
    static constexpr float unit = full / static_cast<float>(1 << bits);
    static constexpr float last = static_cast<float>((1 << bits) - 1);

    static YL_SIMD_INLINE F code_of(F value) {
        if constexpr (mode.base_bits == 16)
            return rounded(value);
        const F size = hn::Abs(value);
        const F code = rounded(clamped(size * set(1.0F / unit) - set(0.5F), zero(), set(last)));
        return is_signed ? hn::CopySign(code, value) : code;
    }

    static YL_SIMD_INLINE F value_of(F code) {
        if constexpr (mode.base_bits == 16)
            return code;
        const F size = hn::Abs(code);
        F value = size * set(unit) + set(unit / 2);
        value = hn::IfThenZeroElse(size == zero(), value);
        value = if_then_else(size == set(last), set(full - 1), value);
        return is_signed ? hn::CopySign(value, code) : value;
    }

    static YL_SIMD_INLINE void store_ends(const Lines<subsets, 3>& ideal, LightWinner& stored,
                                          Lines<subsets, 3>& values) {
        for (std::size_t c = 0; c < 3; ++c) {
            const F base = code_of(ideal.from[c][0]);
            constexpr bool is_delta = mode.is_delta;
            const F reach = set(static_cast<float>(1 << (mode.delta_bits[c] - 1)));
            for (std::size_t end = 0; end < 2 * subsets; ++end) {
                const std::size_t s = end / 2;
                F code = code_of(end % 2 == 0 ? ideal.from[c][s] : ideal.to[c][s]);
                if (is_delta && end > 0)
                    code = clamped(code, base - reach, base + reach - set(1));
                stored.ends[end][c] = to_int(code);
                (end % 2 == 0 ? values.from : values.to)[c][s] = value_of(code);
            }
        }
    }
};

/// Tries one mode for lines that are fitted already, refining them for its own ends.
template <unsigned row, bool is_signed>
HWY_NOINLINE void try_mode(const Texels& texels, const Subsets& split, I partition,
                           const Lines<bc6h_modes[row].subsets, 3>& fitted,
                           const Totals<bc6h_modes[row].subsets, 3>& totals, int rounds,
                           LightWinner& best) {
    using M = LightMode<row, is_signed>;
    Lines<M::subsets, 3> ideal = fitted;
    for (int round = 0; round <= rounds; ++round) {
        LightWinner candidate;
        Lines<M::subsets, 3> values;
        for (std::size_t end = 2 * M::subsets; end < 4; ++end)
            for (I& code : candidate.ends[end])
                code = set_int(0);
        M::store_ends(ideal, candidate, values);
        candidate.error = measure<M::subsets, 3, M::index_bits, Purpose::finish>(
            texels, split, values, nullptr, &candidate.indices);
        candidate.row = set_int(row);
        candidate.partition = partition;
        keep_winner(candidate, best);
        if (round == rounds)
            break;
        Choices<M::subsets, 3> choices;
        measure<M::subsets, 3, M::index_bits, Purpose::refine>(texels, split, values, &choices,
                                                               nullptr);
        solve(texels, choices, totals, ideal);
    }
}

/// Lines that fit before any rounding, with the first end on the side of the first texel, so that
/// its index needs no more bits than it has.
template <std::size_t subsets, unsigned index_bits>
HWY_NOINLINE void fit(const Texels& texels, const Subsets& split, int rounds,
                      Lines<subsets, 3>& lines, Totals<subsets, 3>& totals) {
    fit_lines<subsets, 3>(texels, split, lines, totals);
    for (int round = 0; round < rounds; ++round) {
        Choices<subsets, 3> choices;
        measure<subsets, 3, index_bits, Purpose::refine>(texels, split, lines, &choices, nullptr);
        solve(texels, choices, totals, lines);
    }
    F to_from = zero(), to_to = zero();
    for (std::size_t c = 0; c < 3; ++c) {
        to_from = to_from + squared(texels.color[c][0] - lines.from[c][0]);
        to_to = to_to + squared(texels.color[c][0] - lines.to[c][0]);
    }
    const Mask swap = to_to < to_from;
    for (std::size_t c = 0; c < 3; ++c) {
        const F from = lines.from[c][0];
        update_where(swap, lines.to[c][0], lines.from[c][0]);
        update_where(swap, from, lines.to[c][0]);
    }
}

struct Effort {
    int fit_rounds, mode_rounds;
    std::size_t partitions;  // that are fitted, of those ranked
    bool all_modes;
};

YL_SIMD_INLINE Effort effort_of(int effort) {
    constexpr Effort efforts[] = {{0, 0, 0, false}, {1, 0, 0, false}, {1, 0, 1, false},
                                  {1, 0, 1, true},  {1, 0, 1, true},  {1, 0, 2, true},
                                  {1, 1, 2, true},  {2, 1, 3, true},  {2, 1, 5, true},
                                  {2, 2, 8, true},  {3, 3, 16, true}};
    return efforts[effort];
}

template <bool is_signed>
YL_SIMD_INLINE void try_one_line(const Texels& texels, const Effort& effort, LightWinner& best) {
    const Subsets split = {set_int(0), set_int(0)};
    Lines<1, 3> lines;
    Totals<1, 3> totals;
    fit<1, 4>(texels, split, effort.fit_rounds, lines, totals);
    try_mode<10, is_signed>(texels, split, set_int(0), lines, totals, effort.mode_rounds, best);
    try_mode<11, is_signed>(texels, split, set_int(0), lines, totals, effort.mode_rounds, best);
    try_mode<12, is_signed>(texels, split, set_int(0), lines, totals, effort.mode_rounds, best);
    try_mode<13, is_signed>(texels, split, set_int(0), lines, totals, effort.mode_rounds, best);
}

template <bool is_signed>
YL_SIMD_INLINE void try_two_lines(const Texels& texels, const Effort& effort, LightWinner& best) {
    if (effort.partitions == 0)
        return;
    const BlockMoments<3> block(texels);
    Ranking<most_candidates> ranking;
    ranking.clear();
    rank_two<3, 3>(block, light_partitions, effort.partitions, ranking);
    for (std::size_t i = 0; i < effort.partitions; ++i) {
        const I partition = ranking.partition[i];
        const Subsets split = subsets_of_two(partition);
        Lines<2, 3> lines;
        Totals<2, 3> totals;
        fit<2, 3>(texels, split, effort.fit_rounds, lines, totals);
        const int rounds = effort.mode_rounds;
        try_mode<0, is_signed>(texels, split, partition, lines, totals, rounds, best);
        try_mode<1, is_signed>(texels, split, partition, lines, totals, rounds, best);
        try_mode<5, is_signed>(texels, split, partition, lines, totals, rounds, best);
        try_mode<9, is_signed>(texels, split, partition, lines, totals, rounds, best);
        if (!effort.all_modes)
            continue;
        try_mode<2, is_signed>(texels, split, partition, lines, totals, rounds, best);
        try_mode<3, is_signed>(texels, split, partition, lines, totals, rounds, best);
        try_mode<4, is_signed>(texels, split, partition, lines, totals, rounds, best);
        try_mode<6, is_signed>(texels, split, partition, lines, totals, rounds, best);
        try_mode<7, is_signed>(texels, split, partition, lines, totals, rounds, best);
        try_mode<8, is_signed>(texels, split, partition, lines, totals, rounds, best);
    }
}

/// A half float's bits as a number that rises with its value; what cannot be stored becomes the
/// nearest that can, and NaN becomes 0.
template <bool is_signed>
YL_SIMD_INLINE F number_of_half(I half) {
    const I size = half & set_int(0x7FFF);
    const auto is_no_number = size > set_int(0x7C00);
    const I finite = hn::IfThenZeroElse(is_no_number, hn::Min(size, set_int(max_half)));
    const Mask is_negative = has_bit(half, 15);
    const F value = to_float(finite);
    if constexpr (!is_signed)
        return hn::IfThenZeroElse(is_negative, value);
    return if_then_else(is_negative, hn::Neg(value), value);
}

template <bool is_signed>
YL_SIMD_INLINE void load_texels(const std::byte* bytes, std::size_t count, Texels& texels) {
    // The decoder multiplies by 31 and divides by 64 or 32.
    const F scale = set(is_signed ? 32.0F / 31 : 64.0F / 31);
    texels.has_weights = false;
    texels.min = is_signed ? set(-32767) : zero();
    texels.max = set(is_signed ? 32767.0F : 65535.0F);
    for (F& weight : texels.channel_weight)
        weight = set(1);
    const I offsets = lane_offsets(count, 2 * texels_of_block);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const I first = gather_words(bytes, 2 * i, offsets);
        const I second = gather_words(bytes, 2 * i + 1, offsets);
        const I halves[3] = {first & set_int(0xFFFF), hn::ShiftRight<16>(first) & set_int(0xFFFF),
                             second & set_int(0xFFFF)};
        for (std::size_t c = 0; c < 3; ++c) {
            // Half a step up: the decoder rounds towards 0.
            const F value = number_of_half<is_signed>(halves[c]);
            const F middle = value + hn::CopySign(set(0.5F), value);
            texels.color[c][i] = clamped(hn::IfThenZeroElse(value == zero(), middle) * scale,
                                         texels.min, texels.max);
        }
    }
}

YL_SIMD_INLINE void write(const LightWinner& best, std::size_t count, std::byte* blocks) {
    HWY_ALIGN std::int32_t lanes_of[16][most_lanes];
    hn::Store(best.row, Ints(), lanes_of[0]);
    hn::Store(best.partition, Ints(), lanes_of[1]);
    hn::Store(best.indices.low, Ints(), lanes_of[2]);
    hn::Store(best.indices.high, Ints(), lanes_of[3]);
    for (std::size_t end = 0; end < 4; ++end)
        for (std::size_t c = 0; c < 3; ++c)
            hn::Store(best.ends[end][c], Ints(), lanes_of[4 + 3 * end + c]);
    for (std::size_t lane = 0; lane < count; ++lane) {
        Bc6hChoice choice;
        choice.row = static_cast<std::uint32_t>(lanes_of[0][lane]);
        choice.partition = static_cast<std::uint32_t>(lanes_of[1][lane]);
        choice.indices = static_cast<std::uint32_t>(lanes_of[2][lane]) |
                         std::uint64_t{static_cast<std::uint32_t>(lanes_of[3][lane])} << 32;
        for (std::size_t end = 0; end < 4; ++end)
            for (std::size_t c = 0; c < 3; ++c)
                choice.ends[end][c] = lanes_of[4 + 3 * end + c][lane];
        pack_bc6h(choice, blocks + 16 * lane);
    }
}

template <bool is_signed>
YL_SIMD_INLINE void encode_all(const std::byte* bytes, std::size_t count,
                               const LightSettings& settings, std::byte* blocks) {
    const Effort effort = effort_of(settings.effort);
    for (std::size_t at = 0; at < count; at += lanes()) {
        const std::size_t used = HWY_MIN(lanes(), count - at);
        Texels texels;
        load_texels<is_signed>(bytes + at * 8 * texels_of_block, used, texels);
        LightWinner best;
        best.error = set(never);
        best.row = set_int(10);
        best.partition = best.indices.low = best.indices.high = set_int(0);
        for (auto& end : best.ends)
            for (I& code : end)
                code = set_int(0);
        try_one_line<is_signed>(texels, effort, best);
        try_two_lines<is_signed>(texels, effort, best);
        write(best, used, blocks + at * 16);
    }
}

void encode(const std::byte* texels, std::size_t count, const LightSettings& settings,
            std::byte* blocks) {
    if (settings.is_signed)
        encode_all<true>(texels, count, settings, blocks);
    else
        encode_all<false>(texels, count, settings, blocks);
}

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::bc {

HWY_EXPORT(encode);

void encode_bc6h(const std::byte* texels, std::size_t count, const LightSettings& settings,
                 std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode)(texels, count, settings, blocks);
}

}  // namespace yl::bc
#endif
