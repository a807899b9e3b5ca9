// One candidate after the other for all lanes, and what is best in each.

#if defined(YL_BLOCK_ASTC_TRIALS_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_ASTC_TRIALS_INL_HPP
#undef YL_BLOCK_ASTC_TRIALS_INL_HPP
#else
#define YL_BLOCK_ASTC_TRIALS_INL_HPP
#endif

#include <algorithm>

#include "block/astc/fit-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::astc::HWY_NAMESPACE {

/// What each lane's best block is made of.
struct Best {
    F error;
    F list, candidate;  ///< places, which floats hold exactly
    F split, plane;
    F ranks[most_weights];
    F low[most_parts][4], high[most_parts][4];
    F scale[most_parts];
    F hdr[most_parts][8];
};

/// How much is tried.
struct Effort {
    unsigned candidates;        ///< of blocks as a whole
    unsigned plane_candidates;  ///< with weights of its own for one channel: alpha, or
    unsigned color_planes;      ///< 1: the colour that is most apart, 3: every one
    unsigned split_candidates;  ///< of blocks in two parts
    unsigned splits;            ///< ways to cut a block in two that are tried
    unsigned
        scaled_in_eight;  ///< as many candidates whose low end is a share of the high, of eight
    int thin_steps;
    int rounds;                    ///< of refining the best
    bool ranks_splits = false;     ///< by the lines of all splits, not by two clusters
    unsigned deep_candidates = 0;  ///< of blocks in three and in four parts
    unsigned deep_splits = 0;
    unsigned hard_splits = 0;  ///< more ways to cut those blocks in two that are far off yet
};

/// Large blocks have more grids that are worth a try, and so has light, whose candidates stand in an order
/// made for other colours.
Effort effort_of(int effort, std::size_t texels, bool is_light) {
    static constexpr Effort efforts[] = {{4, 0, 0, 0, 0, 0, 0, 0},
                                         {8, 4, 0, 0, 0, 0, 0, 0},
                                         {12, 6, 1, 0, 0, 0, 0, 1},
                                         {14, 8, 1, 4, 1, 2, 0, 1, false, 0, 0, 2},
                                         {16, 12, 1, 6, 1, 4, 1, 1, false, 0, 0, 2},
                                         {20, 14, 1, 8, 1, 3, 1, 1, false, 0, 0, 2},
                                         {32, 24, 1, 12, 2, 4, 1, 2, false, 0, 0, 2},
                                         {80, 64, 1, 32, 6, 8, 2, 4, true},
                                         {64, 48, 3, 32, 6, 8, 1, 3, true},
                                         {120, 96, 3, 48, 10, 8, 2, 3, true, 24, 4},
                                         {999, 999, 3, 96, 16, 8, 2, 4, true, 48, 8}};
    Effort result = efforts[effort];
    if (texels >= 64) {
        result.candidates *= 2;
        result.plane_candidates *= 2;
    }
    if (is_light) {
        result.candidates *= 4;
        result.ranks_splits = effort >= 5;
    }
    return result;
}

/// Lists in the order of `list` numbers.
struct Lists {
    const EncoderTables& tables;

    [[nodiscard]] const CandidateList& at(unsigned number) const {
        const unsigned kind = number % kinds;
        return tables.list(encoded_modes[number / kinds], kind == in_two_planes ? 1 : kind + 1,
                           kind == in_two_planes);
    }
    enum Kind : unsigned {
        whole,
        in_two_parts,
        in_three_parts,
        in_four_parts,
        in_two_planes,
        kinds
    };
    enum Color : unsigned {
        gray = 0,
        color = 2 * kinds,
        scaled_color = 4 * kinds,
        light = 6 * kinds,
        light_with_alpha = 8 * kinds  ///< alpha of high dynamic range too
    };
    [[nodiscard]] static unsigned number(Color color, bool has_alpha, Kind kind) {
        return color + (has_alpha ? kinds : 0U) + kind;
    }
};

/// One candidate for all lanes.
struct Trial {
    const CandidateList& list;
    unsigned list_number, place;
    F split;
    F plane;  ///< red, green or blue has changed places with red, to be the one with its own weights
};

/// Red changes places with each lane's own channel: 0, 1 or 2.
YL_SIMD_INLINE void exchange(F channel, F* colors) {
    const Mask is_green = channel == set(1.0F), is_blue = channel == set(2.0F);
    const F red = colors[0];
    colors[0] = if_then_else(is_green, colors[1], if_then_else(is_blue, colors[2], red));
    colors[1] = if_then_else(is_green, red, colors[1]);
    colors[2] = if_then_else(is_blue, red, colors[2]);
}

/// The weights of a trial, as ranks and as those of texels.
struct TrialWeights {
    F ranks[most_weights + behind_grid], own_ranks[most_weights + behind_grid];
    TexelWeights texels;
};

YL_SIMD_INLINE void settle_weights(const Texels& texels, const Fit& fit, const Grid& grid,
                                   unsigned range, const F* thin, const F* own_thin,
                                   TrialWeights& weights) {
    F rounded_weights[most_weights + behind_grid];
    round_weights(grid, range, thin, weights.ranks, rounded_weights);
    fill_in(grid, texels.count, rounded_weights, weights.texels.weight);
    if (fit.plane == no_plane)
        return;
    round_weights(grid, range, own_thin, weights.own_ranks, rounded_weights);
    fill_in(grid, texels.count, rounded_weights, weights.texels.own);
}

YL_SIMD_INLINE void keep_better(const Trial& trial, const Fit& fit, const Grid& grid,
                                const TrialWeights& weights, Ends ends, Mask allowed, Best& best) {
    const Mask better = and_mask(allowed, ends.error < best.error);
    if (all_false(better))
        return;
    update_where(better, ends.error, best.error);
    update_where(better, set(static_cast<float>(trial.list_number)), best.list);
    update_where(better, set(static_cast<float>(trial.place)), best.candidate);
    update_where(better, trial.split, best.split);
    update_where(better, trial.plane, best.plane);
    if (fit.plane == 0) {
        exchange(trial.plane, ends.low[0]);
        exchange(trial.plane, ends.high[0]);
    }
    const bool has_two = fit.plane != no_plane;
    for (std::size_t k = 0; k < grid.count(); ++k) {
        update_where(better, weights.ranks[k], best.ranks[has_two ? 2 * k : k]);
        if (has_two)
            update_where(better, weights.own_ranks[k], best.ranks[2 * k + 1]);
    }
    for (unsigned part = 0; part < fit.parts; ++part) {
        update_where(better, ends.scale[part], best.scale[part]);
        for (std::size_t i = 0; is_rgb_hdr(trial.list.endpoint_mode) && i < 8; ++i)
            update_where(better, ends.hdr[part][i], best.hdr[part][i]);
        for (std::size_t c = 0; c < 4; ++c) {
            update_where(better, ends.low[part][c], best.low[part][c]);
            update_where(better, ends.high[part][c], best.high[part][c]);
        }
    }
}

YL_SIMD_INLINE Ends settle(const Texels& texels, const Fit& fit, const Candidate& candidate,
                           EndpointMode mode, const TrialWeights& weights, bool tries_beside,
                           F bound) {
    Sums sums[most_parts];
    for (unsigned part = 0; part < fit.parts; ++part)
        sums[part] = sums_of(texels, fit, weights.texels, part);
    return ends_for(texels, fit, sums, mode, candidate.color_range, tries_beside, bound);
}

/// The first `count` candidates of a list.
YL_SIMD_INLINE void try_list(const Lists& lists, unsigned number, unsigned count,
                             const Texels& texels, const Fit& fit, F split, F plane, int thin_steps,
                             Mask allowed, Best& best) {
    if (all_false(allowed))
        return;
    const CandidateList& list = lists.at(number);
    const auto tried = std::min<std::size_t>(count, list.candidates.size());
    // Candidates of one grid share what is made of it.
    std::array<std::uint16_t, 1024> order{};
    for (std::size_t i = 0; i < tried; ++i)
        order[i] = static_cast<std::uint16_t>(i);
    std::stable_sort(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(tried),
                     [&](std::uint16_t a, std::uint16_t b) {
                         return list.candidates[a].grid < list.candidates[b].grid;
                     });
    F thin[most_weights + behind_grid], own_thin[most_weights + behind_grid];
    unsigned thinned = ~0U;
    TrialWeights weights;
    for (std::size_t i = 0; i < tried; ++i) {
        const Candidate& candidate = list.candidates[order[i]];
        const Grid& grid = lists.tables.grids()[candidate.grid];
        if (candidate.grid != thinned) {
            thin_out(grid, texels.count, fit.place, thin_steps, thin);
            if (fit.plane != no_plane)
                thin_out(grid, texels.count, fit.own_place, thin_steps, own_thin);
            thinned = candidate.grid;
        }
        settle_weights(texels, fit, grid, candidate.weight_range, thin, own_thin, weights);
        const Ends ends =
            settle(texels, fit, candidate, list.endpoint_mode, weights, false, best.error);
        keep_better({list, number, order[i], split, plane}, fit, grid, weights, ends, allowed,
                    best);
    }
}

/// Where texels lie between the ends that were chosen.
YL_SIMD_INLINE void place_between(const Texels& texels, const Ends& ends, Fit& fit) {
    F along[most_parts][4], start[most_parts], own_start = zero(), own_scale = zero();
    for (unsigned part = 0; part < fit.parts; ++part) {
        F length = zero();
        start[part] = zero();
        for (std::size_t c = 0; c < 4; ++c) {
            const F low = ends.low[part][c] * texels.root[c] - fit.mean[part][c];
            const F step = (ends.high[part][c] - ends.low[part][c]) * texels.root[c];
            if (c == fit.plane) {
                along[part][c] = zero();
                own_start = low;
                own_scale = set(most_weight) * inverse_or_zero(step);
                continue;
            }
            along[part][c] = step;
            length = step * step + length;
            start[part] = step * low + start[part];
        }
        const F scale = set(most_weight) * inverse_or_zero(length);
        start[part] = start[part] * scale;
        for (F& direction : along[part])
            direction = direction * scale;
    }
    for (std::size_t i = 0; i < texels.count; ++i) {
        F place = zero() - of_part(fit, i, [&](unsigned part) { return start[part]; });
        for (std::size_t c = 0; c < 4; ++c)
            place = fit.centered[i][c] *
                        of_part(fit, i, [&](unsigned part) { return along[part][c]; }) +
                    place;
        fit.place[i] = clamped(place, zero(), set(most_weight));
        if (fit.plane != no_plane)
            fit.own_place[i] = clamped((fit.centered[i][fit.plane] - own_start) * own_scale, zero(),
                                       set(most_weight));
    }
}

/// Weights for the chosen ends, and ends for these weights, several times over.
YL_SIMD_INLINE void refine(const Lists& lists, const Trial& trial, const Texels& texels, Fit& fit,
                           const Effort& effort, Mask allowed, Best& best) {
    const Candidate& candidate = trial.list.candidates[trial.place];
    const Grid& grid = lists.tables.grids()[candidate.grid];
    F thin[most_weights + behind_grid], own_thin[most_weights + behind_grid];
    TrialWeights weights;
    Ends ends;
    for (unsigned part = 0; part < fit.parts; ++part) {
        for (std::size_t c = 0; c < 4; ++c) {
            ends.low[part][c] = best.low[part][c];
            ends.high[part][c] = best.high[part][c];
        }
        if (fit.plane == 0) {
            exchange(trial.plane, ends.low[part]);
            exchange(trial.plane, ends.high[part]);
        }
    }
    for (int round = 0; round < effort.rounds; ++round) {
        place_between(texels, ends, fit);
        thin_out(grid, texels.count, fit.place, effort.thin_steps + 1, thin);
        if (fit.plane != no_plane)
            thin_out(grid, texels.count, fit.own_place, effort.thin_steps + 1, own_thin);
        settle_weights(texels, fit, grid, candidate.weight_range, thin, own_thin, weights);
        ends = settle(texels, fit, candidate, trial.list.endpoint_mode, weights, true, set(never));
        keep_better(trial, fit, grid, weights, ends, allowed, best);
    }
}

}  // namespace yl::astc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
