// What a grid of weights and a range of endpoints make of lines of colours.
//
// With weights w from 0 to 1 of texels that count n in all, S1 the sum of w, S2 that of w^2 and Y that
// of w times a channel c, counted from its mean, the best ends are -Y S1 / det and Y (n - S1) / det
// with det = n S2 - S1^2; and any ends a and b leave the squared error
//     sum of c^2 + a^2 (n - 2 S1 + S2) + 2 a b (S1 - S2) + b^2 S2 + 2 (a - b) Y,
// so that no texel has to be looked at for each range of endpoints.

#if defined(YL_BLOCK_ASTC_FIT_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_ASTC_FIT_INL_HPP
#undef YL_BLOCK_ASTC_FIT_INL_HPP
#else
#define YL_BLOCK_ASTC_FIT_INL_HPP
#endif

#include "block/astc/encoder_tables.hpp"
#include "block/astc/integer_sequence.hpp"
#include "block/astc/texel_lines-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::astc::HWY_NAMESPACE {

constexpr unsigned behind_grid = most_grid_side + 2;  // read with shares of 0

/// Ends as the decoder gets them, and the error that they leave.
struct Ends {
    F low[most_parts][4], high[most_parts][4];
    F scale[most_parts];   ///< in 256ths, where the low end is a share of the high end
    F hdr[most_parts][8];  ///< values of colours and alpha of high dynamic range
    F error;
};

/// The sum of four weights around a texel by their shares.
YL_SIMD_INLINE F filled_in(const Grid& grid, std::size_t i, const F* weights) {
    const std::array<float, 4>& shares = grid.shares[i];
    const F* upper = weights + grid.first[i];
    const F* lower = upper + grid.width;
    const F sum = set(shares[1]) * upper[1] + set(shares[0]) * upper[0];
    return set(shares[3]) * lower[1] + set(shares[2]) * lower[0] + sum;
}

YL_SIMD_INLINE void spread_out(const Grid& grid, std::size_t i, F value, F* sums) {
    const std::array<float, 4>& shares = grid.shares[i];
    F* upper = sums + grid.first[i];
    F* lower = upper + grid.width;
    upper[0] = set(shares[0]) * value + upper[0];
    upper[1] = set(shares[1]) * value + upper[1];
    lower[0] = set(shares[2]) * value + lower[0];
    lower[1] = set(shares[3]) * value + lower[1];
}

/// Weights of a grid whose texels come near to `places`: means, and then steps by what is left.
YL_SIMD_INLINE void thin_out(const Grid& grid, std::size_t count, const F* places, int steps,
                             F* weights) {
    if (grid.is_whole()) {
        for (std::size_t i = 0; i < count; ++i)
            weights[i] = places[i];
        return;
    }
    F sums[most_weights + behind_grid];
    for (int step = 0; step <= steps; ++step) {
        for (std::size_t k = 0; k < grid.count() + behind_grid; ++k)
            sums[k] = zero();
        for (std::size_t i = 0; i < count; ++i) {
            const F left =
                step == 0 ? places[i] : places[i] - filled_in(grid, i, weights) * set(1.0F / 16);
            spread_out(grid, i, left, sums);
        }
        for (std::size_t k = 0; k < grid.count(); ++k) {
            const F change = sums[k] * set(grid.inverse_shares[k]);
            const F value = step == 0 ? change : weights[k] + change;
            weights[k] = clamped(value, zero(), set(most_weight));
        }
        for (std::size_t k = grid.count(); k < grid.count() + behind_grid; ++k)
            weights[k] = zero();
    }
}

/// Ranks among the weights of a range, and these weights.
YL_SIMD_INLINE void round_weights(const Grid& grid, unsigned range, const F* weights, F* ranks,
                                  F* rounded_weights) {
    const float last = static_cast<float>(sequence_ranges[range].levels - 1);
    const float* rising = rising_weights()[range].data();
    for (std::size_t k = 0; k < grid.count(); ++k) {
        ranks[k] = rounded(weights[k] * set(last / most_weight));
        rounded_weights[k] = hn::GatherIndex(Floats(), rising, to_int(ranks[k]));
    }
    for (std::size_t k = grid.count(); k < grid.count() + behind_grid; ++k)
        rounded_weights[k] = zero();
}

/// Sums over the texels of a part, of channels that have the same weights and count alike: most
/// colours, the plane's channel, and alpha.
struct Sums {
    F weight[3], squares[3];
    F product[4];
};

YL_SIMD_INLINE std::size_t group_of(const Fit& fit, std::size_t channel) {
    return channel == fit.plane ? 1 : channel == 3 ? 2 : 0;
}

struct TexelWeights {
    F weight[most_texels], own[most_texels];  ///< 0 .. 1; `own` of the plane's channel
};

YL_SIMD_INLINE void fill_in(const Grid& grid, std::size_t count, const F* rounded_weights,
                            F* weights) {
    // A little more than a half is rounded up, as the decoder rounds.
    for (std::size_t i = 0; i < count; ++i) {
        const F weight =
            grid.is_whole()
                ? rounded_weights[i]
                : rounded(filled_in(grid, i, rounded_weights) * set(1.0F / 16) + set(1.0F / 64));
        weights[i] = weight * set(1 / most_weight);
    }
}

YL_SIMD_INLINE Sums sums_of(const Texels& texels, const Fit& fit, const TexelWeights& weights,
                            unsigned part) {
    Sums sums;
    for (std::size_t group = 0; group < 3; ++group)
        sums.weight[group] = sums.squares[group] = zero();
    for (F& product : sums.product)
        product = zero();
    for (std::size_t i = 0; i < texels.count; ++i) {
        const auto add = [&](std::size_t group, F counts, F weight) {
            const F counted = counts * weight;
            sums.weight[group] = sums.weight[group] + counted;
            sums.squares[group] = counted * weight + sums.squares[group];
            return counted;
        };
        const F color = share_of(texels, fit, i, part, false);
        F counted[3];
        counted[0] = add(0, color, weights.weight[i]);
        counted[2] = counted[0];
        if (texels.alpha_counts_alike)
            counted[2] = add(2, share_of(texels, fit, i, part, true), weights.weight[i]);
        if (fit.plane != no_plane)
            counted[1] = add(1, share_of(texels, fit, i, part, fit.plane == 3), weights.own[i]);
        for (std::size_t c = 0; c < 4; ++c)
            sums.product[c] = counted[group_of(fit, c)] * fit.centered[i][c] + sums.product[c];
    }
    if (!texels.alpha_counts_alike) {
        sums.weight[2] = sums.weight[0];
        sums.squares[2] = sums.squares[0];
    }
    return sums;
}

/// The value of a range that is nearest to each of 0 .. 255.
YL_SIMD_INLINE F nearest_color(const float* nearest, F value) {
    return hn::GatherIndex(Floats(), nearest, to_int(clamped(value, zero(), set(255.0F))));
}

/// The best ends of one part before they are rounded, in codes.
YL_SIMD_INLINE void solve(const Texels& texels, const Fit& fit, const Sums& sums, unsigned part,
                          F* low, F* high) {
    for (std::size_t c = 0; c < 4; ++c) {
        const std::size_t group = group_of(fit, c);
        const F total = fit.total[part][c == 3 ? 1 : 0], s1 = sums.weight[group];
        const F det = total * sums.squares[group] - squared(s1);
        // Weights that are all the same settle nothing.
        const F inverse =
            if_then_else(det > squared(total) * set(1e-6F), inverse_or_zero(det), zero());
        const F slope = sums.product[c] * inverse;
        low[c] = (fit.mean[part][c] - slope * s1) * texels.inverse_root[c];
        high[c] = (fit.mean[part][c] + slope * (total - s1)) * texels.inverse_root[c];
    }
}

/// Ends as an endpoint mode can have them.
YL_SIMD_INLINE void round_ends(EndpointMode mode, unsigned color_range, F* low, F* high) {
    const float* nearest = nearest_colors()[color_range].data();
    const bool is_gray = mode == EndpointMode::luminance || mode == EndpointMode::luminance_alpha;
    const bool has_alpha = mode == EndpointMode::rgba || mode == EndpointMode::luminance_alpha ||
                           mode == EndpointMode::rgb_scale_alpha ||
                           mode == EndpointMode::rgb_hdr_alpha;
    for (F* end : {low, high}) {
        if (is_gray) {
            const F gray = nearest_color(nearest, (end[0] + end[1] + end[2]) * set(1.0F / 3));
            end[0] = end[1] = end[2] = gray;
        } else if (!has_scale(mode) && !is_rgb_hdr(mode)) {
            for (std::size_t c = 0; c < 3; ++c)
                end[c] = nearest_color(nearest, end[c]);
        }
        if (mode != EndpointMode::rgba_hdr)
            end[3] = has_alpha ? nearest_color(nearest, end[3]) : set(255.0F);
    }
}

/// The whole number that is not above a number of 256ths.
YL_SIMD_INLINE F whole_of_256ths(F value) {
    return rounded(value * set(1.0F / 256) - set(127.5F / 256));
}

/// Colours c of weights w as h (s + (1 - s) w): the best h for the s of the ends that are given, and
/// then the best s for this h as it is rounded.
YL_SIMD_INLINE void scale_ends(const Texels& texels, const Fit& fit, const Sums& sums,
                               unsigned part, unsigned color_range, F* low, F* high, F& scale) {
    const float* nearest = nearest_colors()[color_range].data();
    const F total = fit.total[part][0], s1 = sums.weight[0], s2 = sums.squares[0];
    F along = zero(), length = zero();
    for (std::size_t c = 0; c < 3; ++c) {
        const F squared_root = squared(texels.root[c]);
        along = along + low[c] * high[c] * squared_root;
        length = length + high[c] * high[c] * squared_root;
    }
    const F share = clamped(along * inverse_or_zero(length), zero(), set(255.0F / 256));
    const F rest = set(1.0F) - share;
    const F squares = share * share * total + set(2.0F) * share * rest * s1 + rest * rest * s2;
    const F inverse = inverse_or_zero(squares);
    F above = zero(), below = zero();
    for (std::size_t c = 0; c < 3; ++c) {
        const F mean = fit.mean[part][c];
        const F plain = mean * total, weighed = sums.product[c] + mean * s1;
        const F best = (share * plain + rest * weighed) * inverse * texels.inverse_root[c];
        high[c] = nearest_color(nearest, best);
        const F scaled = high[c] * texels.root[c];
        above = above + scaled * (plain - weighed - scaled * (s1 - s2));
        below = below + scaled * scaled * (total - s1 - s1 + s2);
    }
    const F again = clamped(above * inverse_or_zero(below), zero(), set(255.0F / 256));
    scale = nearest_color(nearest, rounded(again * set(256.0F)));
    for (std::size_t c = 0; c < 3; ++c)
        low[c] = whole_of_256ths(high[c] * scale);
}

/// What ends leave in one channel.
YL_SIMD_INLINE F channel_error(const Texels& texels, const Fit& fit, const Sums& sums,
                               unsigned part, std::size_t c, F low, F high) {
    const std::size_t group = group_of(fit, c);
    const F s1 = sums.weight[group], s2 = sums.squares[group], both = s1 - s2;
    const F a = low * texels.root[c] - fit.mean[part][c];
    const F b = high * texels.root[c] - fit.mean[part][c];
    F sum = fit.squares[part][c];
    sum = squared(a) * (fit.total[part][c == 3 ? 1 : 0] - s1 - both) + sum;
    sum = a * b * (both + both) + sum;
    sum = squared(b) * s2 + sum;
    return ((a - b) + (a - b)) * sums.product[c] + sum;
}

/// Of the scale of texels, 0 .. 255, one is so much of the 12 bits of ends of high dynamic range.
constexpr float hdr_codes = 257.0F / 16;

/// Ends of high dynamic range, which have many forms: lane by lane, and those that are wanted.
YL_SIMD_INLINE void round_hdr_ends(EndpointMode mode, unsigned color_range, Mask wanted, F* low,
                                   F* high, F* values) {
    const std::size_t channels = mode == EndpointMode::rgba_hdr ? 4 : 3;
    HWY_ALIGN float is_wanted[hn::MaxLanes(Floats())];
    hn::Store(if_then_else(wanted, set(1.0F), zero()), Floats(), is_wanted);
    const float* nearest = nearest_colors()[color_range].data();
    HWY_ALIGN float lows[4][hn::MaxLanes(Floats())];
    HWY_ALIGN float highs[4][hn::MaxLanes(Floats())];
    HWY_ALIGN float stored[8][hn::MaxLanes(Floats())] = {};
    for (std::size_t c = 0; c < channels; ++c) {
        const F most = set(4095.0F);
        hn::Store(clamped(low[c] * set(hdr_codes), zero(), most), Floats(), lows[c]);
        hn::Store(clamped(high[c] * set(hdr_codes), zero(), most), Floats(), highs[c]);
    }
    for (std::size_t lane = 0; lane < lanes(); ++lane) {
        if (is_wanted[lane] == 0)
            continue;
        const HdrColors colors =
            encode_rgb_hdr({lows[0][lane], lows[1][lane], lows[2][lane]},
                           {highs[0][lane], highs[1][lane], highs[2][lane]}, nearest);
        for (std::size_t c = 0; c < 3; ++c) {
            lows[c][lane] = static_cast<float>(colors.ends.low[c]) * (1 / hdr_codes);
            highs[c][lane] = static_cast<float>(colors.ends.high[c]) * (1 / hdr_codes);
        }
        for (std::size_t i = 0; i < 6; ++i)
            stored[i][lane] = static_cast<float>(colors.values[i]);
        if (channels < 4)
            continue;
        const HdrAlphas alphas = encode_alpha_hdr(lows[3][lane], highs[3][lane], nearest);
        lows[3][lane] = static_cast<float>(alphas.low) * (1 / hdr_codes);
        highs[3][lane] = static_cast<float>(alphas.high) * (1 / hdr_codes);
        for (std::size_t i = 0; i < 2; ++i)
            stored[6 + i][lane] = static_cast<float>(alphas.values[i]);
    }
    for (std::size_t c = 0; c < channels; ++c) {
        low[c] = hn::Load(Floats(), lows[c]);
        high[c] = hn::Load(Floats(), highs[c]);
    }
    for (std::size_t i = 0; i < 8; ++i)
        values[i] = hn::Load(Floats(), stored[i]);
}

YL_SIMD_INLINE F error_of(const Texels& texels, const Fit& fit, const Sums& sums, unsigned part,
                          const F* low, const F* high) {
    F error = zero();
    for (std::size_t c = 0; c < 4; ++c)
        error = error + channel_error(texels, fit, sums, part, c, low[c], high[c]);
    return error;
}

/// Ends rounded each to its own nearest are not always the best together: the values beside them are
/// tried as well.
YL_SIMD_INLINE void try_beside(const Texels& texels, const Fit& fit, const Sums& sums,
                               unsigned part, EndpointMode mode, unsigned color_range, F* low,
                               F* high) {
    const float* nearest = nearest_colors()[color_range].data();
    const F step = set(255.0F / static_cast<float>(sequence_ranges[color_range].levels - 1));
    for (std::size_t c = 0; c < (mode == EndpointMode::rgba ? 4U : 3U); ++c) {
        const F lows[3] = {low[c], nearest_color(nearest, low[c] - step),
                           nearest_color(nearest, low[c] + step)};
        const F highs[3] = {high[c], nearest_color(nearest, high[c] - step),
                            nearest_color(nearest, high[c] + step)};
        F least = set(never);
        for (const F& a : lows)
            for (const F& b : highs) {
                const F error = channel_error(texels, fit, sums, part, c, a, b);
                const Mask is_less = error < least;
                update_where(is_less, error, least);
                update_where(is_less, a, low[c]);
                update_where(is_less, b, high[c]);
            }
    }
}

/// What ends leave before they are rounded, which no rounded ones come below.
YL_SIMD_INLINE F least_error(const Texels& texels, const Fit& fit, const Sums* sums) {
    F error = zero();
    for (unsigned part = 0; part < fit.parts; ++part) {
        F low[4], high[4];
        solve(texels, fit, sums[part], part, low, high);
        error = error + error_of(texels, fit, sums[part], part, low, high);
    }
    return error;
}

/// Rounded ends for the sums of all parts. Those of high dynamic range are slow: only lanes whose
/// error could come below `bound` have them.
YL_SIMD_INLINE Ends ends_for(const Texels& texels, const Fit& fit, const Sums* sums,
                             EndpointMode mode, unsigned color_range, bool tries_beside, F bound) {
    Ends ends;
    ends.error = zero();
    const Mask wanted = is_rgb_hdr(mode) ? least_error(texels, fit, sums) < bound : bound == bound;
    if (all_false(wanted)) {
        ends.error = set(never);
        return ends;
    }
    for (unsigned part = 0; part < fit.parts; ++part) {
        solve(texels, fit, sums[part], part, ends.low[part], ends.high[part]);
        ends.scale[part] = zero();
        if (is_rgb_hdr(mode))
            round_hdr_ends(mode, color_range, wanted, ends.low[part], ends.high[part],
                           ends.hdr[part]);
        if (has_scale(mode))
            scale_ends(texels, fit, sums[part], part, color_range, ends.low[part], ends.high[part],
                       ends.scale[part]);
        round_ends(mode, color_range, ends.low[part], ends.high[part]);
        if (tries_beside && (mode == EndpointMode::rgb || mode == EndpointMode::rgba))
            try_beside(texels, fit, sums[part], part, mode, color_range, ends.low[part],
                       ends.high[part]);
        ends.error =
            ends.error + error_of(texels, fit, sums[part], part, ends.low[part], ends.high[part]);
        // Both ends of one part cannot change places without those of the other.
        if (fit.parts > 1 && !has_scale(mode) && !is_rgb_hdr(mode)) {
            const F* low = ends.low[part];
            const F* high = ends.high[part];
            const Mask falls = high[0] + high[1] + high[2] < low[0] + low[1] + low[2];
            ends.error = if_then_else(falls, set(never), ends.error);
        }
    }
    ends.error = if_then_else(wanted, ends.error, set(never));
    return ends;
}

}  // namespace yl::astc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
