// Blocks of BC6H and BC7 in lanes, and lines through the colours of their subsets.

#if defined(YL_BLOCK_BC_LINES_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_BC_LINES_INL_HPP
#undef YL_BLOCK_BC_LINES_INL_HPP
#else
#define YL_BLOCK_BC_LINES_INL_HPP
#endif

#include "block/lanes-inl.hpp"
#include "block/principal_axis-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

constexpr float never = 1e30F;

struct Texels {
    F color[4][texels_of_block];
    F min, max;  // of any channel
    F channel_weight[4];
    // Where texels count differently: of errors, for each channel; and of fits.
    bool has_weights;
    F error_weight[4][texels_of_block];
    F fit_weight[texels_of_block];
};

/// The subset of each texel, which may differ from lane to lane: bits of those in the second one
/// and in the third one.
struct Subsets {
    I second, third;

    template <std::size_t subsets>
    YL_SIMD_INLINE F choose_for(std::size_t texel, const F* of_subset) const {
        F value = of_subset[0];
        if constexpr (subsets > 1)
            value = if_then_else(has_bit(second, static_cast<std::int32_t>(texel)), of_subset[1],
                                 value);
        if constexpr (subsets > 2)
            value =
                if_then_else(has_bit(third, static_cast<std::int32_t>(texel)), of_subset[2], value);
        return value;
    }
    /// 1 for texels of the subset, 0 for others.
    template <std::size_t subsets>
    YL_SIMD_INLINE F member(std::size_t texel, std::size_t subset) const {
        if constexpr (subsets == 1)
            return set(1);
        const F one = set(1);
        const auto bit = static_cast<std::int32_t>(texel);
        if (subset == 1)
            return hn::IfThenElseZero(has_bit(second, bit), one);
        if (subset == 2)
            return hn::IfThenElseZero(has_bit(third, bit), one);
        return hn::IfThenZeroElse(has_bit(subsets == 2 ? second : second | third, bit), one);
    }
};

/// Two ends in each subset, in decoded values.
template <std::size_t subsets, std::size_t channels>
struct Lines {
    F from[channels][subsets], to[channels][subsets];
};

/// What does not change while a fit is refined: sums of weights and of weighted colours.
template <std::size_t subsets, std::size_t channels>
struct Totals {
    F weight[subsets], color[channels][subsets];
};

YL_SIMD_INLINE F fit_weight(const Texels& texels, std::size_t texel) {
    return texels.has_weights ? texels.fit_weight[texel] : set(1);
}

/// Lines along the greatest spread of each subset, as long as the texels need.
template <std::size_t subsets, std::size_t channels>
HWY_NOINLINE void fit_lines(const Texels& texels, const Subsets& split,
                            Lines<subsets, channels>& lines, Totals<subsets, channels>& totals) {
    for (std::size_t s = 0; s < subsets; ++s) {
        F weight[texels_of_block];
        F sum[channels];
        totals.weight[s] = zero();
        for (F& channel : sum)
            channel = zero();
        for (std::size_t i = 0; i < texels_of_block; ++i) {
            weight[i] = split.member<subsets>(i, s) * fit_weight(texels, i);
            totals.weight[s] = totals.weight[s] + weight[i];
            for (std::size_t c = 0; c < channels; ++c)
                sum[c] = sum[c] + weight[i] * texels.color[c][i];
        }
        const F inverse = inverse_or_zero(totals.weight[s]);
        F mean[channels];
        for (std::size_t c = 0; c < channels; ++c) {
            totals.color[c][s] = sum[c];
            mean[c] = sum[c] * inverse;
        }
        Covariance<channels> covariance;
        for (F& entry : covariance.entry)
            entry = zero();
        for (std::size_t i = 0; i < texels_of_block; ++i) {
            F off[channels];
            for (std::size_t c = 0; c < channels; ++c)
                off[c] = texels.color[c][i] - mean[c];
            for (std::size_t row = 0, at = 0; row < channels; ++row) {
                const F weighted = weight[i] * off[row];
                for (std::size_t column = row; column < channels; ++column, ++at)
                    covariance.entry[at] = covariance.entry[at] + weighted * off[column];
            }
        }
        const Axis<channels> axis = principal_axis(covariance, 3);
        F low = set(never), high = set(-never);
        for (std::size_t i = 0; i < texels_of_block; ++i) {
            F place = zero();
            for (std::size_t c = 0; c < channels; ++c)
                place = place + (texels.color[c][i] - mean[c]) * axis.direction[c];
            const Mask counts = weight[i] > zero();
            low = if_then_else(counts, hn::Min(low, place), low);
            high = if_then_else(counts, hn::Max(high, place), high);
        }
        const Mask is_empty = low > high;
        low = hn::IfThenZeroElse(is_empty, low);
        high = hn::IfThenZeroElse(is_empty, high);
        for (std::size_t c = 0; c < channels; ++c) {
            lines.from[c][s] = clamped(mean[c] + axis.direction[c] * low, texels.min, texels.max);
            lines.to[c][s] = clamped(mean[c] + axis.direction[c] * high, texels.min, texels.max);
        }
    }
}

/// Sums of a choice of indices, in each subset: `a` counts how much of the first end a texel has.
template <std::size_t subsets, std::size_t channels>
struct Choices {
    F a[subsets], aa[subsets], a_color[channels][subsets];
};

/// The lines that lie nearest to the texels with the indices that they chose (least squares).
template <std::size_t subsets, std::size_t channels>
YL_SIMD_INLINE void solve(const Texels& texels, const Choices<subsets, channels>& choices,
                          const Totals<subsets, channels>& totals,
                          Lines<subsets, channels>& lines) {
    for (std::size_t s = 0; s < subsets; ++s) {
        const F aa = choices.aa[s];
        const F ab = choices.a[s] - aa;
        const F bb = totals.weight[s] - choices.a[s] - ab;
        const F determinant = aa * bb - ab * ab;
        const Mask solvable = determinant > set(1e-3F);
        const F inverse = inverse_or_zero(determinant);
        for (std::size_t c = 0; c < channels; ++c) {
            const F p = choices.a_color[c][s];
            const F q = totals.color[c][s] - p;
            const F from = clamped((bb * p - ab * q) * inverse, texels.min, texels.max);
            const F to = clamped((aa * q - ab * p) * inverse, texels.min, texels.max);
            update_where(solvable, from, lines.from[c][s]);
            update_where(solvable, to, lines.to[c][s]);
        }
    }
}

/// 16 indices of up to 4 bits each.
struct Indices {
    I low, high;
};

/// How much of the second end an index stands for: the standard's weights, in 64ths.
template <unsigned bits>
YL_SIMD_INLINE F weight_of_index(F index) {
    constexpr float step = 64.0F / static_cast<float>((1U << bits) - 1);
    return rounded(index * set(step));
}

enum class Purpose { refine, finish };

/// A texel's share of the sums for least squares.
template <std::size_t subsets, std::size_t channels>
YL_SIMD_INLINE void add_choice(const Texels& texels, const Subsets& split, std::size_t i, F weight,
                               Choices<subsets, channels>& choices) {
    const F a = set(1) - weight * set(1.0F / 64);
    const F fitted = texels.has_weights ? a * texels.fit_weight[i] : a;
    for (std::size_t s = 0; s < subsets; ++s) {
        const F own = subsets == 1 ? fitted : fitted * split.member<subsets>(i, s);
        choices.a[s] = choices.a[s] + own;
        choices.aa[s] = choices.aa[s] + own * a;
        for (std::size_t c = 0; c < channels; ++c)
            choices.a_color[c][s] = choices.a_color[c][s] + own * texels.color[c][i];
    }
}

/// The error when each texel takes its best index. To refine: the sums for least squares. To
/// finish: colours rounded as the decoder rounds them, and the indices.
template <std::size_t subsets, std::size_t channels, unsigned bits, Purpose purpose>
HWY_NOINLINE F measure(const Texels& texels, const Subsets& split,
                       const Lines<subsets, channels>& lines, Choices<subsets, channels>* choices,
                       Indices* indices) {
    constexpr float last = static_cast<float>((1U << bits) - 1);
    F direction[channels][subsets], scaled[channels][subsets];
    for (std::size_t s = 0; s < subsets; ++s) {
        F length = zero();
        for (std::size_t c = 0; c < channels; ++c) {
            direction[c][s] = lines.to[c][s] - lines.from[c][s];
            scaled[c][s] = direction[c][s] * texels.channel_weight[c];
            length = length + direction[c][s] * scaled[c][s];
        }
        const F scale = set(last) * inverse_or_zero(length);
        for (std::size_t c = 0; c < channels; ++c) {
            scaled[c][s] = scaled[c][s] * scale;
            direction[c][s] = direction[c][s] * set(1.0F / 64);
        }
    }
    if constexpr (purpose == Purpose::refine)
        for (std::size_t s = 0; s < subsets; ++s) {
            choices->a[s] = choices->aa[s] = zero();
            for (std::size_t c = 0; c < channels; ++c)
                choices->a_color[c][s] = zero();
        }
    else
        indices->low = indices->high = set_int(0);
    F error = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F from[channels];
        F along = zero();
        for (std::size_t c = 0; c < channels; ++c) {
            from[c] = split.choose_for<subsets>(i, lines.from[c]);
            along =
                along + (texels.color[c][i] - from[c]) * split.choose_for<subsets>(i, scaled[c]);
        }
        const F index = rounded(clamped(along, zero(), set(last)));
        const F weight = weight_of_index<bits>(index);
        for (std::size_t c = 0; c < channels; ++c) {
            F color = from[c] + split.choose_for<subsets>(i, direction[c]) * weight;
            if constexpr (purpose == Purpose::finish)
                color = rounded(color);
            F part = squared(color - texels.color[c][i]) * texels.channel_weight[c];
            if (texels.has_weights)
                part = part * texels.error_weight[c][i];
            error = error + part;
        }
        if constexpr (purpose == Purpose::refine) {
            add_choice(texels, split, i, weight, *choices);
        } else {
            I& half = i < 8 ? indices->low : indices->high;
            half = half | hn::ShiftLeftSame(to_int(index), static_cast<int>(4 * (i % 8)));
        }
    }
    return error;
}

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
