// ETC2: the forms that differential colours leave room for, for many blocks at once. Included once
// for each instruction set.

#if defined(YL_BLOCK_ETC_COLOR_FORMS_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_ETC_COLOR_FORMS_INL_HPP
#undef YL_BLOCK_ETC_COLOR_FORMS_INL_HPP
#else
#define YL_BLOCK_ETC_COLOR_FORMS_INL_HPP
#endif

#include "block/etc/color_fit-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::etc::HWY_NAMESPACE {

enum class PairForm { t, h };

/// Two colours of 4 bits a channel, and the number of a distance.
struct Pair {
    F code[2][3];
    F distance, error;
};

/// Which colour each index is made of, and the sign of the distance in it.
struct Recipe {
    std::size_t color;
    float sign;
};
constexpr Recipe recipes[2][4] = {{{0, 0}, {1, 1}, {1, 0}, {1, -1}},
                                  {{0, 1}, {0, -1}, {1, 1}, {1, -1}}};

template <PairForm form>
YL_SIMD_INLINE void palette_of(const Pair& pair, F (*palette)[3]) {
    const F distance = hn::GatherIndex(Floats(), float_distances.data(), to_int(pair.distance));
    F colors[2][3];
    for (std::size_t n = 0; n < 2; ++n)
        for (std::size_t c = 0; c < 3; ++c)
            colors[n][c] = color_of_code<4>(pair.code[n][c]);
    for (std::size_t k = 0; k < 4; ++k) {
        const Recipe& recipe = recipes[static_cast<std::size_t>(form)][k];
        add_to(colors[recipe.color], distance * set(recipe.sign), palette[k]);
    }
}

YL_SIMD_INLINE void keep_better(const Pair& pair, Pair& best) {
    const Mask better = pair.error < best.error;
    for (std::size_t n = 0; n < 2; ++n)
        for (std::size_t c = 0; c < 3; ++c)
            update_where(better, pair.code[n][c], best.code[n][c]);
    update_where(better, pair.distance, best.distance);
    update_where(better, pair.error, best.error);
}

/// The lowest bit of H's distance is the order of its colours: equal ones have only odd numbers.
template <PairForm form>
YL_SIMD_INLINE Mask cannot_be_stored(const Pair& pair) {
    if constexpr (form == PairForm::t)
        return zero() < zero();
    const Mask alike =
        and_mask(and_mask(pair.code[0][0] == pair.code[1][0], pair.code[0][1] == pair.code[1][1]),
                 pair.code[0][2] == pair.code[1][2]);
    const Mask is_even =
        hn::RebindMask(Floats(), (to_int(pair.distance) & set_int(1)) == set_int(0));
    return and_mask(alike, is_even);
}

/// The nearest of a palette, without index 2 where that is a hole.
template <bool has_holes>
YL_SIMD_INLINE F nearest_in(const ColorTexels& texels, std::size_t i, const F (*palette)[3],
                            I& index) {
    F nearest = distance(texels, i, palette[0]);
    index = set_int(0);
    for (int k = 1; k < 4; ++k) {
        if (has_holes && k == 2)
            continue;
        const F off = distance(texels, i, palette[k]);
        const Mask nearer = off < nearest;
        update_where(nearer, off, nearest);
        update_where(nearer, set_int(k), index);
    }
    return nearest;
}

template <PairForm form, bool has_holes>
YL_SIMD_INLINE void try_pair(const ColorTexels& texels, Pair pair, Pair& best) {
    F palette[4][3];
    palette_of<form>(pair, palette);
    pair.error = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F nearest = distance(texels, i, palette[0]);
        for (std::size_t k = 1; k < 4; ++k)
            if (!(has_holes && k == 2))
                nearest = hn::Min(nearest, distance(texels, i, palette[k]));
        pair.error = pair.error + nearest * texels.weight[i];
    }
    pair.error = if_then_else(cannot_be_stored<form>(pair), set(never), pair.error);
    keep_better(pair, best);
}

/// The colours that are best for what the texels choose now.
template <PairForm form, bool has_holes>
YL_SIMD_INLINE Pair refitted(const ColorTexels& texels, const Pair& pair) {
    F palette[4][3];
    palette_of<form>(pair, palette);
    const F distance = hn::GatherIndex(Floats(), float_distances.data(), to_int(pair.distance));
    F weights[2] = {zero(), zero()}, sums[2][3];
    for (auto& sum : sums)
        for (F& channel : sum)
            channel = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        I index;
        nearest_in<has_holes>(texels, i, palette, index);
        for (int k = 0; k < 4; ++k) {
            const Recipe& recipe = recipes[static_cast<std::size_t>(form)][k];
            const F weight =
                hn::IfThenElseZero(hn::RebindMask(Floats(), index == set_int(k)), texels.weight[i]);
            weights[recipe.color] = weights[recipe.color] + weight;
            for (std::size_t c = 0; c < 3; ++c)
                sums[recipe.color][c] = sums[recipe.color][c] +
                                        weight * (texels.color[i][c] - distance * set(recipe.sign));
        }
    }
    Pair result = pair;
    for (std::size_t n = 0; n < 2; ++n)
        for (std::size_t c = 0; c < 3; ++c)
            result.code[n][c] = if_then_else(
                weights[n] > zero(), code_of_color<4>(sums[n][c] * inverse_or_zero(weights[n])),
                pair.code[n][c]);
    return result;
}

/// Two groups of texels: cut along the axis of their greatest spread, then each texel with the nearer
/// mean.
YL_SIMD_INLINE void two_means(const ColorTexels& texels, F (*means)[3]) {
    F weights = zero(), mean[3] = {zero(), zero(), zero()};
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        weights = weights + texels.weight[i];
        for (std::size_t c = 0; c < 3; ++c)
            mean[c] = mean[c] + texels.weight[i] * texels.color[i][c];
    }
    for (std::size_t c = 0; c < 3; ++c)
        mean[c] = mean[c] * inverse_or_zero(weights);
    F axis[3] = {set(1), set(1.1F), set(0.9F)};
    for (int round = 0; round < 3; ++round) {
        F next[3] = {zero(), zero(), zero()};
        for (std::size_t i = 0; i < texels_of_block; ++i) {
            F along = zero();
            for (std::size_t c = 0; c < 3; ++c)
                along = along + axis[c] * (texels.color[i][c] - mean[c]);
            along = along * texels.weight[i];
            for (std::size_t c = 0; c < 3; ++c)
                next[c] = next[c] + along * (texels.color[i][c] - mean[c]);
        }
        const F length = hn::Max(hn::Max(hn::Abs(next[0]), hn::Abs(next[1])), hn::Abs(next[2]));
        for (std::size_t c = 0; c < 3; ++c)
            axis[c] = if_then_else(length > set(1e-3F), next[c] * inverse_or_zero(length), axis[c]);
    }
    for (int round = 0; round < 3; ++round) {
        F sums[2][3], counts[2] = {zero(), zero()};
        for (auto& sum : sums)
            for (F& channel : sum)
                channel = zero();
        for (std::size_t i = 0; i < texels_of_block; ++i) {
            F along = zero();
            for (std::size_t c = 0; c < 3; ++c)
                along = along + axis[c] * (texels.color[i][c] - mean[c]);
            const Mask is_second =
                round == 0 ? along > zero()
                           : distance(texels, i, means[1]) < distance(texels, i, means[0]);
            const F second = hn::IfThenElseZero(is_second, texels.weight[i]);
            const F first = texels.weight[i] - second;
            counts[0] = counts[0] + first;
            counts[1] = counts[1] + second;
            for (std::size_t c = 0; c < 3; ++c) {
                sums[0][c] = sums[0][c] + first * texels.color[i][c];
                sums[1][c] = sums[1][c] + second * texels.color[i][c];
            }
        }
        for (std::size_t n = 0; n < 2; ++n)
            for (std::size_t c = 0; c < 3; ++c)
                means[n][c] = if_then_else(counts[n] > zero(),
                                           sums[n][c] * inverse_or_zero(counts[n]), mean[c]);
    }
}

struct PairEffort {
    int refits;
    bool steps_around;  ///< of each colour's channels
};

template <PairForm form, bool has_holes>
YL_SIMD_INLINE Pair fit_pair(const ColorTexels& texels, const PairEffort& effort,
                             const F (*means)[3], bool exchanged) {
    Pair start, best;
    for (std::size_t n = 0; n < 2; ++n)
        for (std::size_t c = 0; c < 3; ++c)
            start.code[n][c] = code_of_color<4>(means[exchanged ? 1 - n : n][c]);
    best = start;
    best.distance = zero();
    best.error = set(never);
    for (int number = 0; number < 8; ++number) {
        start.distance = set(static_cast<float>(number));
        try_pair<form, has_holes>(texels, start, best);
    }
    for (int i = 0; i < effort.refits; ++i)
        for (const float step : {0.0F, -1.0F, 1.0F}) {
            Pair next = refitted<form, has_holes>(texels, best);
            next.distance = clamped(next.distance + set(step), zero(), set(7));
            try_pair<form, has_holes>(texels, next, best);
        }
    if (!effort.steps_around)
        return best;
    for (std::size_t n = 0; n < 2; ++n)
        for (std::size_t c = 0; c < 3; ++c)
            for (const float step : {-1.0F, 1.0F})
                for (const float farther : {0.0F, -1.0F, 1.0F}) {
                    Pair next = best;
                    next.code[n][c] = clamped(next.code[n][c] + set(step), zero(), set(15));
                    next.distance = clamped(next.distance + set(farther), zero(), set(7));
                    try_pair<form, has_holes>(texels, next, best);
                }
    return best;
}

/// Three colours, between which a plane lies: codes of 6, 7 and 6 bits.
struct Plane {
    F code[3][3];  ///< origin, to the right of it, below it; each red, green and blue
    F error;
};

template <int bits>
YL_SIMD_INLINE F plane_error(const ColorTexels& texels, std::size_t c, const F* codes) {
    const I origin = to_int(color_of_code<bits>(codes[0]));
    const I right = to_int(color_of_code<bits>(codes[1])) - origin;
    const I below = to_int(color_of_code<bits>(codes[2])) - origin;
    F error = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const I value = hn::ShiftRight<2>(right * set_int(static_cast<int>(i % 4)) +
                                          below * set_int(static_cast<int>(i / 4)) +
                                          hn::ShiftLeft<2>(origin) + set_int(2));
        const F off = clamped(to_float(value), zero(), set(255)) - texels.color[i][c];
        error = error + texels.weight[i] * squared(off);
    }
    return error * texels.channel_weight[c];
}

/// One channel of the plane through the texels (least squares), and steps around it.
template <int bits>
YL_SIMD_INLINE void fit_plane_channel(const ColorTexels& texels, std::size_t c, int rounds,
                                      Plane& plane) {
    F sum = zero(), across = zero(), down = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F value = texels.color[i][c];
        sum = sum + value;
        across = across + value * set(static_cast<float>(i % 4) - 1.5F);
        down = down + value * set(static_cast<float>(i / 4) - 1.5F);
    }
    // 16 texels, whose places have a square of 1.25 on average.
    across = across * set(1.0F / 20);
    down = down * set(1.0F / 20);
    const F origin = sum * set(1.0F / 16) - set(1.5F) * (across + down);
    F codes[3] = {code_of_color<bits>(origin), code_of_color<bits>(origin + set(4) * across),
                  code_of_color<bits>(origin + set(4) * down)};
    F error = plane_error<bits>(texels, c, codes);
    for (int round = 0; round < rounds; ++round)
        for (std::size_t corner = 0; corner < 3; ++corner)
            for (const float step : {-1.0F, 1.0F}) {
                F moved[3] = {codes[0], codes[1], codes[2]};
                moved[corner] = clamped(moved[corner] + set(step), zero(), set((1 << bits) - 1));
                const F other = plane_error<bits>(texels, c, moved);
                const Mask better = other < error;
                update_where(better, moved[corner], codes[corner]);
                update_where(better, other, error);
            }
    for (std::size_t corner = 0; corner < 3; ++corner)
        plane.code[corner][c] = codes[corner];
    plane.error = plane.error + error;
}

YL_SIMD_INLINE Plane fit_plane(const ColorTexels& texels, int rounds) {
    Plane plane;
    plane.error = zero();
    fit_plane_channel<6>(texels, 0, rounds, plane);
    fit_plane_channel<7>(texels, 1, rounds, plane);
    fit_plane_channel<6>(texels, 2, rounds, plane);
    return plane;
}

}  // namespace yl::etc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
