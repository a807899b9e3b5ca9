// BC7: how each mode stores the ends of its lines, lines fitted to that, and the best result kept.

#if defined(YL_BLOCK_BC_BC7_FIT_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_BC_BC7_FIT_INL_HPP
#undef YL_BLOCK_BC_BC7_FIT_INL_HPP
#else
#define YL_BLOCK_BC_BC7_FIT_INL_HPP
#endif

#include "block/bc/bc7_modes.hpp"
#include "block/bc/lines-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

/// The best encoding of each lane's block so far.
struct Winner {
    F error;
    I mode, partition, rotation, selection, extra;
    I codes[6];
    Indices indices, second_indices;

    YL_SIMD_INLINE void clear() {
        error = set(never);
        mode = set_int(6);
        partition = rotation = selection = extra = set_int(0);
        for (I& code : codes)
            code = set_int(0);
        indices = second_indices = {set_int(0), set_int(0)};
    }
};

HWY_NOINLINE void keep_winner(const Winner& candidate, Winner& best) {
    const Mask better = candidate.error < best.error;
    if (all_false(better))
        return;
    update_where(better, candidate.error, best.error);
    update_where(better, candidate.mode, best.mode);
    update_where(better, candidate.partition, best.partition);
    update_where(better, candidate.rotation, best.rotation);
    update_where(better, candidate.selection, best.selection);
    update_where(better, candidate.extra, best.extra);
    for (std::size_t i = 0; i < 6; ++i)
        update_where(better, candidate.codes[i], best.codes[i]);
    update_where(better, candidate.indices.low, best.indices.low);
    update_where(better, candidate.indices.high, best.indices.high);
    update_where(better, candidate.second_indices.low, best.second_indices.low);
    update_where(better, candidate.second_indices.high, best.second_indices.high);
}

/// A number of few bits widened to 8 by repeating its highest ones.
template <int bits>
YL_SIMD_INLINE F widened(F code) {
    if constexpr (bits == 8)
        return code;
    const I value = to_int(code);
    return to_float(hn::ShiftLeft<8 - bits>(value) | hn::ShiftRight<2 * bits - 8>(value));
}

/// Ends as they are stored, and the values that they stand for.
template <std::size_t subsets, std::size_t channels>
struct Coded {
    I codes[2 * subsets];
    I extra;
    Lines<subsets, channels> values;
};

/// The nearest code of `bits`, with an extra lowest bit of 0 or 1 if there is one.
template <int bits, bool has_extra>
YL_SIMD_INLINE F nearest_code(F value, float extra) {
    if constexpr (!has_extra) {
        constexpr float max = (1 << bits) - 1;
        return rounded(clamped(value * set(max / 255), zero(), set(max)));
    } else {
        constexpr float max = (1 << bits) - 1;
        constexpr float scale = static_cast<float>((2 << bits) - 1) / 255 / 2;
        return rounded(clamped(value * set(scale) - set(extra / 2), zero(), set(max)));
    }
}

template <int bits, bool has_extra>
YL_SIMD_INLINE F value_of(F code, float extra) {
    if constexpr (!has_extra)
        return widened<bits>(code);
    else
        return widened<bits + 1>(code + code + set(extra));
}

template <unsigned mode_number>
struct Mode {
    static constexpr Bc7Mode mode = bc7_modes[mode_number];
    static constexpr std::size_t subsets = mode.subsets;
    static constexpr std::size_t channels = mode.alpha_bits > 0 ? 4 : 3;
    static constexpr bool has_extra = mode.endpoint_extra + mode.subset_extra > 0;
    static constexpr int alpha_bits = channels == 4 ? mode.alpha_bits : mode.color_bits;
    using Ends = Lines<subsets, channels>;
    using Stored = Coded<subsets, channels>;

    template <std::size_t channel>
    static YL_SIMD_INLINE F code(F value, float extra) {
        return nearest_code<(channel == 3 ? alpha_bits : mode.color_bits), has_extra>(value, extra);
    }

    /// One end with a given extra bit: its codes, values and how far these are off.
    static YL_SIMD_INLINE F store_end(const Texels& texels, const F* ideal, float extra, I& codes,
                                      F* values) {
        F error = zero();
        codes = set_int(0);
        for (std::size_t c = 0; c < channels; ++c) {
            const F number_of_code = c == 3 ? code<3>(ideal[c], extra) : code<0>(ideal[c], extra);
            values[c] = c == 3 ? value_of<alpha_bits, has_extra>(number_of_code, extra)
                               : value_of<mode.color_bits, has_extra>(number_of_code, extra);
            codes = codes | hn::ShiftLeftSame(to_int(number_of_code), static_cast<int>(8 * c));
            error = error + squared(values[c] - ideal[c]) * texels.channel_weight[c];
        }
        return error;
    }

    /// The nearest ends that can be stored. Where `is_opaque`, alpha stays 255.
    static YL_SIMD_INLINE void store_ends(const Texels& texels, const Ends& ideal, Mask is_opaque,
                                          Stored& stored) {
        stored.extra = set_int(0);
        for (std::size_t s = 0; s < subsets; ++s) {
            I codes[2][2];
            F values[2][2][channels];
            F error[2][2];
            for (std::size_t end = 0; end < 2; ++end) {
                F wanted[channels];
                for (std::size_t c = 0; c < channels; ++c)
                    wanted[c] = end == 0 ? ideal.from[c][s] : ideal.to[c][s];
                for (std::size_t extra = 0; extra < (has_extra ? 2 : 1); ++extra)
                    error[end][extra] = store_end(texels, wanted, static_cast<float>(extra),
                                                  codes[end][extra], values[end][extra]);
            }
            for (std::size_t end = 0; end < 2; ++end) {
                I chosen = codes[end][0];
                Mask has_one = zero() < zero();
                if constexpr (has_extra) {
                    has_one = mode.endpoint_extra != 0
                                  ? error[end][1] < error[end][0]
                                  : error[0][1] + error[1][1] < error[0][0] + error[1][0];
                    if constexpr (channels == 4)
                        has_one = hn::Or(has_one, is_opaque);
                    chosen = if_then_else(has_one, codes[end][1], chosen);
                    stored.extra = stored.extra |
                                   if_then_else(has_one, set_int(std::int32_t{1} << (2 * s + end)),
                                                set_int(0));
                }
                stored.codes[2 * s + end] = chosen;
                for (std::size_t c = 0; c < channels; ++c) {
                    F& value = end == 0 ? stored.values.from[c][s] : stored.values.to[c][s];
                    value = values[end][0][c];
                    if constexpr (has_extra)
                        update_where(has_one, values[end][1][c], value);
                }
            }
        }
    }
};

template <std::size_t subsets, std::size_t channels>
YL_SIMD_INLINE void keep_stored(Mask better, const Coded<subsets, channels>& candidate,
                                Coded<subsets, channels>& best) {
    update_where(better, candidate.extra, best.extra);
    for (std::size_t i = 0; i < 2 * subsets; ++i)
        update_where(better, candidate.codes[i], best.codes[i]);
    for (std::size_t c = 0; c < channels; ++c)
        for (std::size_t s = 0; s < subsets; ++s) {
            update_where(better, candidate.values.from[c][s], best.values.from[c][s]);
            update_where(better, candidate.values.to[c][s], best.values.to[c][s]);
        }
}

/// Fits lines, stores their ends, lets texels choose, and solves again, `rounds` times more. `M`
/// says how ends are stored.
template <class M, unsigned index_bits>
HWY_NOINLINE F refine(const Texels& texels, const Subsets& split, Mask is_opaque, int rounds,
                      Coded<M::subsets, M::channels>& best, Indices& indices) {
    constexpr std::size_t s = M::subsets, c = M::channels;
    Lines<s, c> ideal;
    Totals<s, c> totals;
    fit_lines<s, c>(texels, split, ideal, totals);
    M::store_ends(texels, ideal, is_opaque, best);
    Choices<s, c> choices;
    F min =
        measure<s, c, index_bits, Purpose::refine>(texels, split, best.values, &choices, nullptr);
    for (int round = 0; round < rounds; ++round) {
        solve(texels, choices, totals, ideal);
        Coded<s, c> stored;
        M::store_ends(texels, ideal, is_opaque, stored);
        const F error = measure<s, c, index_bits, Purpose::refine>(texels, split, stored.values,
                                                                   &choices, nullptr);
        const Mask better = error < min;
        update_where(better, error, min);
        keep_stored(better, stored, best);
    }
    return measure<s, c, index_bits, Purpose::finish>(texels, split, best.values, nullptr,
                                                      &indices);
}

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
