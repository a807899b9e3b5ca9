// ETC: the two halves of a block, each a colour and a row of intensities, for many blocks at once.
// Included once for each instruction set.

#if defined(YL_BLOCK_ETC_COLOR_FIT_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_ETC_COLOR_FIT_INL_HPP
#undef YL_BLOCK_ETC_COLOR_FIT_INL_HPP
#else
#define YL_BLOCK_ETC_COLOR_FIT_INL_HPP
#endif

#include "block/etc/color_block.hpp"
#include "block/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::etc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

constexpr float never = 1e30F;

/// The colours of the lanes' blocks.
struct ColorTexels {
    F color[texels_of_block][3];
    F weight[texels_of_block];
    F channel_weight[3];
    I hole;  ///< a bit for each texel
};

/// The texels of a half: left, right, upper, lower.
constexpr std::uint8_t half_texels[2][2][8] = {
    {{0, 1, 4, 5, 8, 9, 12, 13}, {2, 3, 6, 7, 10, 11, 14, 15}},
    {{0, 1, 2, 3, 4, 5, 6, 7}, {8, 9, 10, 11, 12, 13, 14, 15}}};

/// A half as it is stored: a colour, as a code of `bits` bits in each channel, and a row.
struct Half {
    F code[3];
    F row, error;
};

/// The colours that a code stands for.
template <int bits>
YL_SIMD_INLINE F color_of_code(F code) {
    constexpr int shift = 8 - bits;
    const I value = to_int(code);
    return to_float(hn::ShiftLeft<shift>(value) | hn::ShiftRight<bits - shift>(value));
}

template <int bits>
YL_SIMD_INLINE F code_of_color(F color) {
    constexpr float most = (1 << bits) - 1;
    return clamped(rounded(color * set(most / 255)), zero(), set(most));
}

YL_SIMD_INLINE F distance(const ColorTexels& texels, std::size_t i, const F* color) {
    F sum = texels.channel_weight[0] * squared(texels.color[i][0] - color[0]);
    sum = sum + texels.channel_weight[1] * squared(texels.color[i][1] - color[1]);
    return sum + texels.channel_weight[2] * squared(texels.color[i][2] - color[2]);
}

/// A colour with the same number added to each channel.
YL_SIMD_INLINE void add_to(const F* color, F added, F* sum) {
    for (std::size_t c = 0; c < 3; ++c)
        sum[c] = clamped(color[c] + added, zero(), set(255));
}

/// What the four indices of a row add; with holes, index 2 is none of them.
template <bool has_holes>
constexpr std::size_t shade_count = has_holes ? 3 : 4;

template <bool has_holes>
YL_SIMD_INLINE void shades_of(const F* color, F small, F large, F (*shades)[3]) {
    add_to(color, has_holes ? zero() : small, shades[0]);
    add_to(color, large, shades[1]);
    add_to(color, zero() - large, shades[2]);
    if constexpr (!has_holes)
        add_to(color, zero() - small, shades[3]);
}

/// The error of a half with a row; the best one is kept.
template <bool has_holes>
YL_SIMD_INLINE void try_row(const ColorTexels& texels, const std::uint8_t (&list)[8],
                            const F* color, const F* code, F row, Half& best) {
    F shades[4][3];
    shades_of<has_holes>(color, hn::GatherIndex(Floats(), small_intensities.data(), to_int(row)),
                         hn::GatherIndex(Floats(), large_intensities.data(), to_int(row)), shades);
    F error = zero();
    for (const std::uint8_t i : list) {
        F nearest = distance(texels, i, shades[0]);
        for (std::size_t k = 1; k < shade_count<has_holes>; ++k)
            nearest = hn::Min(nearest, distance(texels, i, shades[k]));
        error = error + nearest * texels.weight[i];
    }
    const Mask better = error < best.error;
    for (std::size_t c = 0; c < 3; ++c)
        update_where(better, code[c], best.code[c]);
    update_where(better, row, best.row);
    update_where(better, error, best.error);
}

/// The best row, and its error, as if no shade left 0 .. 255: an error is then its part across the diagonal of grays and
/// its part along it, where a row's four shades lie.
template <bool has_holes>
YL_SIMD_INLINE void guess_row(const ColorTexels& texels, const std::uint8_t (&list)[8],
                              const F* color, const F* code, Half& best) {
    const F total = texels.channel_weight[0] + texels.channel_weight[1] + texels.channel_weight[2];
    F along[8], base = zero();
    for (std::size_t n = 0; n < 8; ++n) {
        const std::size_t i = list[n];
        along[n] = zero();
        for (std::size_t c = 0; c < 3; ++c)
            along[n] = along[n] + texels.channel_weight[c] * (texels.color[i][c] - color[c]);
        along[n] = hn::Abs(along[n]);
        base = base + texels.weight[i] * distance(texels, i, color);
    }
    for (int row = 0; row < 8; ++row) {
        const float small = has_holes ? 0 : intensities[row][0], large = intensities[row][1];
        const F small_square = total * set(small * small),
                large_square = total * set(large * large);
        F error = base;
        for (std::size_t n = 0; n < 8; ++n)
            error =
                error + texels.weight[list[n]] * hn::Min(small_square - set(2 * small) * along[n],
                                                         large_square - set(2 * large) * along[n]);
        const Mask better = error < best.error;
        for (std::size_t c = 0; c < 3; ++c)
            update_where(better, code[c], best.code[c]);
        update_where(better, set(static_cast<float>(row)), best.row);
        update_where(better, error, best.error);
    }
}

YL_SIMD_INLINE void mean_of(const ColorTexels& texels, const std::uint8_t (&list)[8], F* mean) {
    F weights = zero(), sums[3] = {zero(), zero(), zero()};
    for (const std::uint8_t i : list) {
        weights = weights + texels.weight[i];
        for (std::size_t c = 0; c < 3; ++c)
            sums[c] = sums[c] + texels.weight[i] * texels.color[i][c];
    }
    for (std::size_t c = 0; c < 3; ++c)
        mean[c] = sums[c] * inverse_or_zero(weights);
}

/// The colour that is best for the shades that the texels choose now.
template <bool has_holes, int bits>
YL_SIMD_INLINE void refitted_color(const ColorTexels& texels, const std::uint8_t (&list)[8],
                                   const Half& half, F* color) {
    F present[3], shades[4][3];
    for (std::size_t c = 0; c < 3; ++c)
        present[c] = color_of_code<bits>(half.code[c]);
    const F small = hn::GatherIndex(Floats(), small_intensities.data(), to_int(half.row));
    const F large = hn::GatherIndex(Floats(), large_intensities.data(), to_int(half.row));
    shades_of<has_holes>(present, small, large, shades);
    const F added[4] = {has_holes ? zero() : small, large, zero() - large, zero() - small};
    F weights = zero(), sums[3] = {zero(), zero(), zero()};
    for (const std::uint8_t i : list) {
        F nearest = distance(texels, i, shades[0]), chosen = added[0];
        for (std::size_t k = 1; k < shade_count<has_holes>; ++k) {
            const F off = distance(texels, i, shades[k]);
            const Mask nearer = off < nearest;
            update_where(nearer, off, nearest);
            update_where(nearer, added[k], chosen);
        }
        weights = weights + texels.weight[i];
        for (std::size_t c = 0; c < 3; ++c)
            sums[c] = sums[c] + texels.weight[i] * (texels.color[i][c] - chosen);
    }
    for (std::size_t c = 0; c < 3; ++c)
        color[c] = sums[c] * inverse_or_zero(weights);
}

/// Steps around a colour that are tried: none, one channel at a time, or all of them together.
enum class Around { nothing, faces, cube };

/// How rows are compared: as `guess_row` does it, exactly beside the guessed one, or all exactly.
enum class Rows { guessed, three, all };

struct HalfEffort {
    Rows rows;
    int refits;
    Around around;
};

template <bool has_holes, int bits>
YL_SIMD_INLINE void try_code(const ColorTexels& texels, const std::uint8_t (&list)[8],
                             const F* code, Rows rows, Half& best) {
    F color[3];
    for (std::size_t c = 0; c < 3; ++c)
        color[c] = color_of_code<bits>(code[c]);
    if (rows == Rows::guessed)
        return guess_row<has_holes>(texels, list, color, code, best);
    if (rows == Rows::all) {
        for (int row = 0; row < 8; ++row)
            try_row<has_holes>(texels, list, color, code, set(static_cast<float>(row)), best);
        return;
    }
    Half guessed;
    guessed.error = set(never);
    guessed.row = zero();
    for (std::size_t c = 0; c < 3; ++c)
        guessed.code[c] = code[c];
    guess_row<has_holes>(texels, list, color, code, guessed);
    for (const float step : {0.0F, -1.0F, 1.0F})
        try_row<has_holes>(texels, list, color, code,
                           clamped(guessed.row + set(step), zero(), set(7)), best);
}

/// Codes between `low` and `high`, which are whole.
struct Range {
    F low[3], high[3];
};

template <bool has_holes, int bits>
YL_SIMD_INLINE Half fit_half(const ColorTexels& texels, const std::uint8_t (&list)[8],
                             const HalfEffort& effort, const F* mean, const Range& range) {
    Half best;
    best.error = set(never);
    best.row = zero();
    F code[3];
    const auto within = [&](const F* color) {
        for (std::size_t c = 0; c < 3; ++c)
            code[c] = clamped(code_of_color<bits>(color[c]), range.low[c], range.high[c]);
    };
    within(mean);
    for (std::size_t c = 0; c < 3; ++c)
        best.code[c] = code[c];
    try_code<has_holes, bits>(texels, list, code, effort.rows, best);
    for (int i = 0; i < effort.refits; ++i) {
        F color[3];
        refitted_color<has_holes, bits>(texels, list, best, color);
        within(color);
        try_code<has_holes, bits>(texels, list, code, effort.rows, best);
    }
    if (effort.around == Around::nothing)
        return best;
    const Half start = best;
    for (int step = 0; step < 27; ++step) {
        const int steps[3] = {step % 3 - 1, step / 3 % 3 - 1, step / 9 - 1};
        const int moved = (steps[0] != 0) + (steps[1] != 0) + (steps[2] != 0);
        if (moved == 0 || (effort.around == Around::faces && moved > 1))
            continue;
        for (std::size_t c = 0; c < 3; ++c)
            code[c] = clamped(start.code[c] + set(static_cast<float>(steps[c])), range.low[c],
                              range.high[c]);
        try_code<has_holes, bits>(texels, list, code, effort.rows, best);
    }
    return best;
}

template <int bits>
YL_SIMD_INLINE Range whole_range() {
    Range range;
    for (std::size_t c = 0; c < 3; ++c) {
        range.low[c] = zero();
        range.high[c] = set((1 << bits) - 1);
    }
    return range;
}

/// What one half of the differential form can be beside the other: so much less or more than it.
YL_SIMD_INLINE Range range_around(const Half& other, float less, float more) {
    Range range;
    for (std::size_t c = 0; c < 3; ++c) {
        range.low[c] = hn::Max(other.code[c] - set(less), zero());
        range.high[c] = hn::Min(other.code[c] + set(more), set(31));
    }
    return range;
}

}  // namespace yl::etc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
