// The two colours of a block of BC1 in each lane: from a choice of steps by least squares, and the
// steps from the colours.

#if defined(YL_BLOCK_BC_BC1_ENDS_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_BC_BC1_ENDS_INL_HPP
#undef YL_BLOCK_BC_BC1_ENDS_INL_HPP
#else
#define YL_BLOCK_BC_BC1_ENDS_INL_HPP
#endif

#include "block/bc/encode.hpp"
#include "block/lanes-inl.hpp"
#include "block/principal_axis-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

constexpr std::size_t most_lanes = hn::MaxLanes(Floats());
constexpr float never = 1e30F;

enum class Form { four, three, three_with_hole };

constexpr float steps_of(Form form) {
    return form == Form::four ? 3 : 2;
}

struct ColorTexels {
    F color[texels_of_block][3];
    F weight[texels_of_block];
    I hole;  // bits of texels that are cut out
    F channel_weight[3];
    bool are_normals;
};

/// Endpoints in steps of their 5 or 6 bits.
struct ColorEnds {
    F from[3], to[3], error;
};

YL_SIMD_INLINE F max_code(std::size_t channel) {
    return set(channel == 1 ? 63.0F : 31.0F);
}

/// What the decoder makes of 5 or 6 bits: the highest ones repeated below.
YL_SIMD_INLINE F widened(F code, std::size_t channel) {
    const I bits = to_int(code);
    if (channel == 1)
        return to_float(hn::ShiftLeft<2>(bits) | hn::ShiftRight<4>(bits));
    return to_float(hn::ShiftLeft<3>(bits) | hn::ShiftRight<2>(bits));
}

YL_SIMD_INLINE F nearest_code(F value, std::size_t channel) {
    const F max = max_code(channel);
    return rounded(clamped(value * max * set(1.0F / 255), zero(), max));
}

/// The sums that settle the best ends for one choice of indices: `a` counts how much of the first
/// end a texel has.
struct Choice {
    F a, aa, weight;  // sums of a, of its square, of the weights
    F a_color[3];     // of a times the colour
    F color[3];
};

/// Ends by least squares, rounded to codes, and their error but for a constant.
YL_SIMD_INLINE void solve(const Choice& sums, const ColorTexels& texels, ColorEnds& ends) {
    const F ab = sums.a - sums.aa;
    const F bb = sums.weight - sums.a - ab;
    const F determinant = sums.aa * bb - ab * ab;
    const Mask solvable = determinant > set(1e-4F);
    const F inverse = inverse_or_zero(determinant);
    const F mean_factor = inverse_or_zero(sums.weight);
    F error = zero();
    for (std::size_t c = 0; c < 3; ++c) {
        const F p = sums.a_color[c];
        const F q = sums.color[c] - p;
        const F mean = sums.color[c] * mean_factor;
        ends.from[c] = nearest_code(if_then_else(solvable, (bb * p - ab * q) * inverse, mean), c);
        ends.to[c] =
            nearest_code(if_then_else(solvable, (sums.aa * q - ab * p) * inverse, mean), c);
        const F from = widened(ends.from[c], c);
        const F to = widened(ends.to[c], c);
        const F part =
            from * (from * sums.aa + set(2) * (to * ab - p)) + to * (to * bb - set(2) * q);
        error = error + part * texels.channel_weight[c];
    }
    ends.error = error;
}

YL_SIMD_INLINE Axis<3> axis_of(const ColorTexels& texels, F* mean) {
    F weight = zero();
    F sum[3] = {zero(), zero(), zero()};
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        weight = weight + texels.weight[i];
        for (std::size_t c = 0; c < 3; ++c)
            sum[c] = sum[c] + texels.weight[i] * texels.color[i][c];
    }
    const F inverse = inverse_or_zero(weight);
    for (std::size_t c = 0; c < 3; ++c)
        mean[c] = sum[c] * inverse;
    Covariance<3> covariance;
    for (F& entry : covariance.entry)
        entry = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F from_mean[3];
        for (std::size_t c = 0; c < 3; ++c)
            from_mean[c] = texels.color[i][c] - mean[c];
        for (std::size_t row = 0, at = 0; row < 3; ++row)
            for (std::size_t column = row; column < 3; ++column, ++at)
                covariance.entry[at] =
                    covariance.entry[at] + texels.weight[i] * from_mean[row] * from_mean[column];
    }
    for (std::size_t row = 0, at = 0; row < 3; ++row)
        for (std::size_t column = row; column < 3; ++column, ++at)
            covariance.entry[at] =
                covariance.entry[at] * texels.channel_weight[row] * texels.channel_weight[column];
    return principal_axis(covariance, 4);
}

/// The steps that the texels choose between two ends, and the error.
struct Steps {
    F step[texels_of_block];
    F error;
};

/// The part of the error that lies along the vectors themselves and does not turn them.
template <Form form>
YL_SIMD_INLINE F radial_error(const ColorTexels& texels, const F* from, const F* direction,
                              const Steps& steps) {
    F sum = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F share = steps.step[i] * set(1.0F / steps_of(form));
        F radial = zero();
        for (std::size_t c = 0; c < 3; ++c)
            radial = radial + (from[c] + direction[c] * share - texels.color[i][c]) *
                                  (texels.color[i][c] - set(127.5F));
        sum = sum + squared(radial);
    }
    return sum * set(1.0F / (127.5F * 127.5F));
}

template <Form form>
YL_SIMD_INLINE void choose_steps(const ColorTexels& texels, const ColorEnds& ends, Steps& steps) {
    F from[3], direction[3], weighted[3];
    F length = zero();
    for (std::size_t c = 0; c < 3; ++c) {
        from[c] = widened(ends.from[c], c);
        direction[c] = widened(ends.to[c], c) - from[c];
        weighted[c] = direction[c] * texels.channel_weight[c];
        length = length + direction[c] * weighted[c];
    }
    const F scale = set(steps_of(form)) * inverse_or_zero(length);
    steps.error = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F along = zero();
        for (std::size_t c = 0; c < 3; ++c)
            along = along + (texels.color[i][c] - from[c]) * weighted[c];
        F step = rounded(clamped(along * scale, zero(), set(steps_of(form))));
        const F share = step * set(1.0F / steps_of(form));
        F distance = zero();
        for (std::size_t c = 0; c < 3; ++c)
            distance = distance + squared(from[c] + direction[c] * share - texels.color[i][c]) *
                                      texels.channel_weight[c];
        if constexpr (form == Form::three_with_hole) {  // black is the fourth colour
            const F to_black = squared(texels.color[i][0]) * texels.channel_weight[0] +
                               squared(texels.color[i][1]) * texels.channel_weight[1] +
                               squared(texels.color[i][2]) * texels.channel_weight[2];
            step = if_then_else(to_black < distance, set(3), step);
            distance = hn::Min(to_black, distance);
        }
        steps.step[i] = step;
        steps.error = steps.error + distance * texels.weight[i];
    }
    if (texels.are_normals)
        steps.error = steps.error - radial_error<form>(texels, from, direction, steps);
}

/// The sums for the steps that texels have chosen.
template <Form form>
YL_SIMD_INLINE Choice sums_for(const ColorTexels& texels, const Steps& steps) {
    Choice sums;
    sums.a = sums.aa = sums.weight = zero();
    for (std::size_t c = 0; c < 3; ++c)
        sums.a_color[c] = sums.color[c] = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F weight = texels.weight[i];
        if constexpr (form == Form::three_with_hole)
            weight = hn::IfThenZeroElse(steps.step[i] == set(3), weight);
        const F a = set(1) - steps.step[i] * set(1.0F / steps_of(form));
        const F aw = a * weight;
        sums.a = sums.a + aw;
        sums.aa = sums.aa + a * aw;
        sums.weight = sums.weight + weight;
        for (std::size_t c = 0; c < 3; ++c) {
            sums.a_color[c] = sums.a_color[c] + aw * texels.color[i][c];
            sums.color[c] = sums.color[c] + weight * texels.color[i][c];
        }
    }
    return sums;
}

/// A code and its neighbours, and their values.
struct Neighbours {
    F code[3], value[3];
};

YL_SIMD_INLINE Neighbours neighbours_of(F code, std::size_t channel) {
    Neighbours result;
    for (std::size_t i = 0; i < 3; ++i) {
        result.code[i] = clamped(code + set(static_cast<float>(i) - 1), zero(), max_code(channel));
        result.value[i] = widened(result.code[i], channel);
    }
    return result;
}

/// The best ends for the steps that texels have chosen: those of least squares, and in each channel
/// their neighbours by the same quadratic form.
template <Form form>
YL_SIMD_INLINE void nudge(const ColorTexels& texels, const Steps& steps, ColorEnds& ends) {
    const Choice sums = sums_for<form>(texels, steps);
    solve(sums, texels, ends);
    const F ab = sums.a - sums.aa;
    const F bb = sums.weight - sums.a - ab;
    for (std::size_t c = 0; c < 3; ++c) {
        const F p = sums.a_color[c];
        const F q = sums.color[c] - p;
        const Neighbours from = neighbours_of(ends.from[c], c);
        const Neighbours to = neighbours_of(ends.to[c], c);
        F min = set(never);
        for (std::size_t a = 0; a < 3; ++a) {
            const F x = from.value[a];
            const F x_part = x * (x * sums.aa - set(2) * p);
            for (std::size_t b = 0; b < 3; ++b) {
                const F y = to.value[b];
                const F error = x_part + y * (y * bb + set(2) * (x * ab - q));
                const Mask better = error < min;
                update_where(better, error, min);
                update_where(better, from.code[a], ends.from[c]);
                update_where(better, to.code[b], ends.to[c]);
            }
        }
    }
}

/// The ends of the range of the texels along their axis.
YL_SIMD_INLINE ColorEnds ends_of_range(const ColorTexels& texels) {
    F mean[3];
    const Axis<3> axis = axis_of(texels, mean);
    F low = set(never), high = set(-never);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F place = zero();
        for (std::size_t c = 0; c < 3; ++c)
            place = place + (texels.color[i][c] - mean[c]) * axis.direction[c];
        const Mask counts = texels.weight[i] > zero();
        low = if_then_else(counts, hn::Min(low, place), low);
        high = if_then_else(counts, hn::Max(high, place), high);
    }
    const F inset = (high - low) * set(1.0F / 16);
    ColorEnds ends;
    for (std::size_t c = 0; c < 3; ++c) {
        ends.from[c] = nearest_code(mean[c] + axis.direction[c] * (low + inset), c);
        ends.to[c] = nearest_code(mean[c] + axis.direction[c] * (high - inset), c);
    }
    ends.error = set(never);
    return ends;
}

/// The real error of `ends`, then of what they become when texels and ends are settled in turn.
template <Form form>
YL_SIMD_INLINE void settle(const ColorTexels& texels, int rounds, ColorEnds& ends) {
    ColorEnds present = ends;
    Steps steps;
    choose_steps<form>(texels, present, steps);
    ends.error = steps.error;
    Mask going = zero() == zero();  // each lane stops by itself, whoever shares the vector
    for (int round = 0; round < rounds; ++round) {
        nudge<form>(texels, steps, present);
        choose_steps<form>(texels, present, steps);
        going = and_mask(going, steps.error < ends.error);
        for (std::size_t c = 0; c < 3; ++c) {
            update_where(going, present.from[c], ends.from[c]);
            update_where(going, present.to[c], ends.to[c]);
        }
        update_where(going, steps.error, ends.error);
        if (all_false(going))
            return;
    }
}

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
