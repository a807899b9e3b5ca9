// BC7: all eight modes, partitions ranked before they are fitted, and the best result kept.
#include <bit>

#include "base/bytes.hpp"
#include "base/simd_inline.hpp"
#include "block/bc/bc7_modes.hpp"
#include "block/bc/bc7_pack.hpp"
#include "block/bc/encode.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "block/bc/bc7_encode_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "block/bc/bc7_fit-inl.hpp"
#include "block/bc/partitions-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

constexpr std::size_t most_lanes = hn::MaxLanes(Floats());
constexpr std::size_t most_candidates = 16;

/// Tries a mode whose channels share their indices.
template <unsigned mode_number>
YL_SIMD_INLINE void try_mode(const Texels& texels, const Subsets& split, I partition, Mask allowed,
                             Mask is_opaque, int rounds, Winner& best) {
    using M = Mode<mode_number>;
    if (all_false(allowed))
        return;
    Winner candidate;
    candidate.clear();
    typename M::Stored stored;
    const F error =
        refine<M, M::mode.index_bits>(texels, split, is_opaque, rounds, stored, candidate.indices);
    candidate.error = if_then_else(allowed, error, set(never));
    candidate.mode = set_int(mode_number);
    candidate.partition = partition;
    candidate.extra = stored.extra;
    for (std::size_t i = 0; i < 2 * M::subsets; ++i)
        candidate.codes[i] = stored.codes[i];
    keep_winner(candidate, best);
}

/// Channels changed places with alpha, in each lane as its rotation says.
YL_SIMD_INLINE void rotate(const Texels& texels, I rotation, Texels& rotated) {
    rotated = texels;
    for (std::size_t c = 0; c < 3; ++c) {
        const Mask here =
            hn::RebindMask(Floats(), rotation == set_int(static_cast<std::int32_t>(c) + 1));
        if (all_false(here))
            continue;
        for (std::size_t i = 0; i < texels_of_block; ++i) {
            rotated.color[c][i] = if_then_else(here, texels.color[3][i], rotated.color[c][i]);
            rotated.color[3][i] = if_then_else(here, texels.color[c][i], rotated.color[3][i]);
            if (!texels.has_weights)
                continue;
            rotated.error_weight[c][i] =
                if_then_else(here, texels.error_weight[3][i], rotated.error_weight[c][i]);
            rotated.error_weight[3][i] =
                if_then_else(here, texels.error_weight[c][i], rotated.error_weight[3][i]);
        }
        update_where(here, texels.channel_weight[3], rotated.channel_weight[c]);
        update_where(here, texels.channel_weight[c], rotated.channel_weight[3]);
    }
}

/// Only the channel that has indices of its own, as the first one.
YL_SIMD_INLINE void take_alpha(const Texels& texels, Texels& alone) {
    alone.has_weights = texels.has_weights;
    alone.min = texels.min;
    alone.max = texels.max;
    alone.channel_weight[0] = texels.channel_weight[3];
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        alone.color[0][i] = texels.color[3][i];
        if (!texels.has_weights)
            continue;
        alone.error_weight[0][i] = alone.fit_weight[i] = texels.error_weight[3][i];
    }
}

/// Colour or alpha of modes 4 and 5.
template <int bits, std::size_t channel_count>
struct Plane {
    static constexpr std::size_t subsets = 1;
    static constexpr std::size_t channels = channel_count;

    static YL_SIMD_INLINE void store_ends(const Texels&, const Lines<1, channels>& ideal, Mask,
                                          Coded<1, channels>& stored) {
        stored.extra = stored.codes[0] = stored.codes[1] = set_int(0);
        for (std::size_t c = 0; c < channels; ++c) {
            const F from = nearest_code<bits, false>(ideal.from[c][0], 0);
            const F to = nearest_code<bits, false>(ideal.to[c][0], 0);
            stored.values.from[c][0] = widened<bits>(from);
            stored.values.to[c][0] = widened<bits>(to);
            stored.codes[0] =
                stored.codes[0] | hn::ShiftLeftSame(to_int(from), static_cast<int>(8 * c));
            stored.codes[1] =
                stored.codes[1] | hn::ShiftLeftSame(to_int(to), static_cast<int>(8 * c));
        }
    }
};

template <unsigned mode_number, bool swapped>
YL_SIMD_INLINE void try_planes(const Texels& rotated, I rotation, int rounds, Winner& best) {
    constexpr Bc7Mode mode = bc7_modes[mode_number];
    constexpr unsigned color_bits = swapped ? mode.second_index_bits : mode.index_bits;
    constexpr unsigned alpha_bits = swapped ? mode.index_bits : mode.second_index_bits;
    Winner candidate;
    candidate.clear();
    Texels alone;
    take_alpha(rotated, alone);
    Coded<1, 3> color;
    Coded<1, 1> alpha;
    const Subsets whole_block = {set_int(0), set_int(0)};
    const Mask nothing = zero() < zero();
    const F color_error = refine<Plane<mode.color_bits, 3>, color_bits>(
        rotated, whole_block, nothing, rounds, color,
        swapped ? candidate.second_indices : candidate.indices);
    const F alpha_error = refine<Plane<mode.alpha_bits, 1>, alpha_bits>(
        alone, whole_block, nothing, rounds, alpha,
        swapped ? candidate.indices : candidate.second_indices);
    candidate.error = color_error + alpha_error;
    candidate.mode = set_int(mode_number);
    candidate.rotation = rotation;
    candidate.selection = set_int(swapped ? 1 : 0);
    for (std::size_t end = 0; end < 2; ++end)
        candidate.codes[end] = color.codes[end] | hn::ShiftLeft<24>(alpha.codes[end]);
    keep_winner(candidate, best);
}

YL_SIMD_INLINE Mask has_varying_alpha(const Texels& texels) {
    Mask varies = zero() < zero();
    for (std::size_t i = 1; i < texels_of_block; ++i)
        varies = hn::Or(varies, hn::Not(texels.color[3][i] == texels.color[3][0]));
    return varies;
}

/// The rotation that leaves least beside a line through the three channels that stay together.
HWY_NOINLINE I best_rotation(const Texels& texels) {
    const BlockMoments<4> block(texels);
    F min = set(never);
    I best = set_int(0);
    for (int rotation = 0; rotation < 4; ++rotation) {
        const std::size_t alone = rotation == 0 ? 3 : static_cast<std::size_t>(rotation) - 1;
        Moments<3> together;
        together.value[0] = block.all.value[0];
        F own = zero();
        for (std::size_t row = 0, to_row = 0, at = 0, to = 0; row < 4; ++row) {
            if (row != alone)
                together.value[1 + to_row++] = block.all.value[1 + row];
            for (std::size_t column = row; column < 4; ++column, ++at) {
                if (row == alone && column == alone)
                    own = block.all.value[5 + at] -
                          squared(block.all.value[1 + row]) * inverse_or_zero(block.all.value[0]);
                if (row != alone && column != alone)
                    together.value[4 + to++] = block.all.value[5 + at];
            }
        }
        const F estimate = estimated_error<3, 2>(together) + own * set(1.0F / 9);
        const Mask better = estimate < min;
        update_where(better, estimate, min);
        update_where(better, set_int(rotation), best);
    }
    return best;
}

/// The pairs of 7-bit codes of which index 1 of 2 bits makes each value of 8 bits exactly.
constexpr std::array<std::int32_t, 256> solid_pairs_of_7_bits = [] {
    std::array<std::int32_t, 256> pairs{};
    for (int a = 0; a < 128; ++a)
        for (int near = -1; near <= 1; ++near) {
            const int b = a + near < 0 ? 0 : (a + near > 127 ? 127 : a + near);
            const int value = ((a << 1 | a >> 6) * 43 + (b << 1 | b >> 6) * 21 + 32) >> 6;
            pairs[static_cast<std::size_t>(value)] = a | b << 8;
        }
    return pairs;
}();

/// Blocks of one colour, exactly.
YL_SIMD_INLINE void try_solid(const Texels& texels, Winner& best) {
    Mask is_solid = zero() == zero();
    for (std::size_t c = 0; c < 4; ++c)
        for (std::size_t i = 1; i < texels_of_block; ++i)
            is_solid = and_mask(is_solid, texels.color[c][i] == texels.color[c][0]);
    if (all_false(is_solid))
        return;
    Winner candidate;
    candidate.clear();
    candidate.error = if_then_else(is_solid, zero(), set(never));
    candidate.mode = set_int(5);
    for (std::size_t c = 0; c < 3; ++c) {
        const I pair =
            hn::GatherIndex(Ints(), solid_pairs_of_7_bits.data(), to_int(texels.color[c][0]));
        candidate.codes[0] =
            candidate.codes[0] | hn::ShiftLeftSame(pair & set_int(127), static_cast<int>(8 * c));
        candidate.codes[1] = candidate.codes[1] |
                             hn::ShiftLeftSame(hn::ShiftRight<8>(pair), static_cast<int>(8 * c));
    }
    const I alpha = hn::ShiftLeft<24>(to_int(texels.color[3][0]));
    candidate.codes[0] = candidate.codes[0] | alpha;
    candidate.codes[1] = candidate.codes[1] | alpha;
    candidate.indices = {set_int(0x11111111), set_int(0x11111111)};
    keep_winner(candidate, best);
}

struct Effort {
    int rounds;
    std::size_t partitions;                             // of two subsets that are ranked
    std::size_t with_mode_1, with_mode_3, with_mode_7;  // of the ranked ones that are fitted
    std::size_t triples;  // partitions of three subsets that are ranked
    std::size_t with_mode_0, with_mode_2;
    bool with_mode_4, with_mode_5;
};

YL_SIMD_INLINE Effort effort_of(int effort) {
    constexpr Effort efforts[] = {
        {1, 0, 0, 0, 0, 0, 0, 0, false, false},     {1, 16, 1, 0, 1, 0, 0, 0, false, false},
        {1, 64, 1, 0, 1, 0, 0, 0, false, false},    {1, 64, 1, 1, 1, 0, 0, 0, false, true},
        {1, 64, 2, 1, 2, 0, 0, 0, false, true},     {1, 64, 2, 1, 2, 0, 0, 0, true, true},
        {1, 64, 2, 2, 2, 64, 1, 1, true, true},     {2, 64, 4, 2, 4, 64, 2, 2, true, true},
        {3, 64, 6, 4, 6, 64, 4, 4, true, true},     {3, 64, 10, 8, 10, 64, 6, 8, true, true},
        {4, 64, 16, 16, 16, 64, 16, 16, true, true}};
    return efforts[effort];
}

/// Blocks where `allowed`, which are opaque.
HWY_NOINLINE void try_opaque_modes(const Texels& texels, const Effort& effort, Mask allowed,
                                   Winner& best) {
    const Mask is_opaque = allowed;
    if (all_false(is_opaque) || effort.partitions == 0)
        return;
    const BlockMoments<3> block(texels);
    Ranking<most_candidates> ranking;
    ranking.clear();
    rank_two<3, 3>(block, effort.partitions, HWY_MAX(effort.with_mode_1, effort.with_mode_3),
                   ranking);
    for (std::size_t i = 0; i < effort.with_mode_1; ++i)
        try_mode<1>(texels, subsets_of_two(ranking.partition[i]), ranking.partition[i], is_opaque,
                    is_opaque, effort.rounds, best);
    for (std::size_t i = 0; i < effort.with_mode_3; ++i)
        try_mode<3>(texels, subsets_of_two(ranking.partition[i]), ranking.partition[i], is_opaque,
                    is_opaque, effort.rounds, best);
    if (effort.triples == 0)
        return;
    ranking.clear();
    rank_three<3, 2>(block, effort.triples, effort.with_mode_2, ranking);
    for (std::size_t i = 0; i < effort.with_mode_2; ++i)
        try_mode<2>(texels, subsets_of_three(ranking.partition[i]), ranking.partition[i], is_opaque,
                    is_opaque, effort.rounds, best);
    ranking.clear();
    rank_three<3, 3>(block, 16, effort.with_mode_0, ranking);
    for (std::size_t i = 0; i < effort.with_mode_0; ++i)
        try_mode<0>(texels, subsets_of_three(ranking.partition[i]), ranking.partition[i], is_opaque,
                    is_opaque, effort.rounds, best);
}

HWY_NOINLINE void try_alpha_modes(const Texels& texels, const Effort& effort, Mask has_alpha,
                                  Mask is_opaque, Winner& best) {
    if (all_false(has_alpha) || effort.partitions == 0)
        return;
    const BlockMoments<4> block(texels);
    Ranking<most_candidates> ranking;
    ranking.clear();
    rank_two<4, 2>(block, effort.partitions, effort.with_mode_7, ranking);
    for (std::size_t i = 0; i < effort.with_mode_7; ++i)
        try_mode<7>(texels, subsets_of_two(ranking.partition[i]), ranking.partition[i], has_alpha,
                    is_opaque, effort.rounds, best);
}

HWY_NOINLINE void try_plane_modes(const Texels& texels, const Effort& effort, bool thorough,
                                  Winner& best) {
    Texels rotated;
    const I first = best_rotation(texels);
    for (int turn = 0; turn < (thorough ? 5 : 1); ++turn) {
        const I rotation = turn == 0 ? first : set_int(turn - 1);
        rotate(texels, rotation, rotated);
        if (effort.with_mode_5)
            try_planes<5, false>(rotated, rotation, effort.rounds, best);
        if (effort.with_mode_4) {
            try_planes<4, false>(rotated, rotation, effort.rounds, best);
            try_planes<4, true>(rotated, rotation, effort.rounds, best);
        }
    }
}

/// Alpha, or another channel, by itself, at low efforts that try no planes else: on a line with
/// colour a varying alpha drags it along.
HWY_NOINLINE void try_separate_alpha(const Texels& texels, Mask varies, int rounds, Winner& best) {
    if (all_false(varies))
        return;
    Winner separate;
    separate.clear();
    Texels rotated;
    const I rotation = best_rotation(texels);
    rotate(texels, rotation, rotated);
    try_planes<5, false>(rotated, rotation, rounds, separate);
    separate.error = if_then_else(varies, separate.error, set(never));
    keep_winner(separate, best);
}

/// At the lowest effort, blocks that one line of colours does not do justice get partitions as
/// well: text, sprites, and whatever has a varying alpha.
HWY_NOINLINE void try_hard_blocks(const Texels& texels, Mask is_opaque, Winner& best) {
    constexpr float hard = 16 * 3 * 5;  // squared codes: 41 dB
    const Effort more = effort_of(1);
    try_opaque_modes(texels, more, and_mask(is_opaque, set(hard) < best.error), best);
    try_alpha_modes(texels, effort_of(2), has_varying_alpha(texels), is_opaque, best);
}

YL_SIMD_INLINE void load_texels(const std::byte* bytes, std::size_t count,
                                const ColorSettings& settings, Texels& texels) {
    const I offsets = lane_offsets(count, texels_of_block);
    texels.min = zero();
    texels.max = set(255);
    for (std::size_t c = 0; c < 4; ++c)
        texels.channel_weight[c] = set(settings.channel_weights[c]);
    Mask all_opaque = zero() == zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const I word = gather_words(bytes, i, offsets);
        for (std::size_t c = 0; c < 4; ++c)
            texels.color[c][i] =
                to_float(hn::ShiftRightSame(word, static_cast<int>(8 * c)) & set_int(255));
        all_opaque = and_mask(all_opaque, texels.color[3][i] == set(255));
    }
    texels.has_weights = settings.weigh_by_alpha && !hn::AllTrue(Floats(), all_opaque);
    if (!texels.has_weights)
        return;
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F seen = texels.color[3][i] * set(1.0F / 255);
        for (std::size_t c = 0; c < 3; ++c)
            texels.error_weight[c][i] = seen;
        texels.error_weight[3][i] = set(1);
        // Alpha counts where colour does not.
        texels.fit_weight[i] = if_then_else(all_opaque, set(1), (seen + set(0.125F)));
    }
}

YL_SIMD_INLINE void write(const Winner& best, std::size_t count, std::byte* blocks) {
    HWY_ALIGN std::int32_t lanes_of[15][most_lanes];
    const I fields[15] = {
        best.mode,         best.partition,          best.rotation,           best.selection,
        best.extra,        best.codes[0],           best.codes[1],           best.codes[2],
        best.codes[3],     best.codes[4],           best.codes[5],           best.indices.low,
        best.indices.high, best.second_indices.low, best.second_indices.high};
    for (std::size_t i = 0; i < 15; ++i)
        hn::Store(fields[i], Ints(), lanes_of[i]);
    for (std::size_t lane = 0; lane < count; ++lane) {
        const auto field = [&](std::size_t i)
                               HWY_ATTR { return static_cast<std::uint32_t>(lanes_of[i][lane]); };
        Bc7Choice choice;
        choice.mode = field(0);
        choice.partition = field(1);
        choice.rotation = field(2);
        choice.selection = field(3);
        choice.extra = field(4);
        for (std::size_t i = 0; i < 6; ++i)
            choice.codes[i] = field(5 + i);
        choice.indices = field(11) | std::uint64_t{field(12)} << 32;
        choice.second_indices = field(13) | std::uint64_t{field(14)} << 32;
        pack_bc7(choice, blocks + 16 * lane);
    }
}

void encode_group(const std::byte* bytes, std::size_t count, const ColorSettings& settings,
                  std::byte* blocks) {
    Texels texels;
    load_texels(bytes, count, settings, texels);
    Mask is_opaque = zero() == zero();
    for (std::size_t i = 0; i < texels_of_block; ++i)
        is_opaque = and_mask(is_opaque, texels.color[3][i] == set(255));
    const Effort effort = effort_of(settings.effort);
    Winner best;
    best.clear();
    const Mask everywhere = zero() == zero();
    try_mode<6>(texels, {set_int(0), set_int(0)}, set_int(0), everywhere, is_opaque, effort.rounds,
                best);
    if (effort.with_mode_5 || effort.with_mode_4)
        try_plane_modes(texels, effort, settings.effort >= 8, best);
    else
        try_separate_alpha(texels, has_varying_alpha(texels), effort.rounds, best);
    if (settings.effort == 0) {
        try_hard_blocks(texels, is_opaque, best);
    } else {
        try_opaque_modes(texels, effort, is_opaque, best);
        try_alpha_modes(texels, effort_of(HWY_MAX(settings.effort, 2)), hn::Not(is_opaque),
                        is_opaque, best);
    }
    try_solid(texels, best);
    write(best, count, blocks);
}

void encode(const std::byte* texels, std::size_t count, const ColorSettings& settings,
            std::byte* blocks) {
    for (std::size_t at = 0; at < count; at += lanes())
        encode_group(texels + at * 4 * texels_of_block, HWY_MIN(lanes(), count - at), settings,
                     blocks + at * 16);
}

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::bc {

HWY_EXPORT(encode);

void encode_bc7(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode)(texels, count, settings, blocks);
}

}  // namespace yl::bc
#endif
