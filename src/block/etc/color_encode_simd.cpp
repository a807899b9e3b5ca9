// ETC2: every form of block that an effort allows, and the best of them kept.
#include "base/bytes.hpp"
#include "base/simd_inline.hpp"
#include "block/etc/color_pack.hpp"
#include "block/etc/encode.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "block/etc/color_encode_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "block/etc/color_fit-inl.hpp"
#include "block/etc/color_forms-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::etc::HWY_NAMESPACE {

struct Effort {
    HalfEffort half;
    bool tries_all_halves;  ///< both forms and, in the differential one, either half first
    int plane_rounds;
    bool tries_pairs;
    PairEffort pair;
};

YL_SIMD_INLINE Effort effort_of(int effort) {
    constexpr Effort efforts[] = {
        {{Rows::guessed, 0, Around::nothing}, false, 0, false, {0, false}},
        {{Rows::guessed, 1, Around::nothing}, false, 0, false, {0, false}},
        {{Rows::guessed, 1, Around::nothing}, true, 1, false, {0, false}},
        {{Rows::three, 1, Around::nothing}, false, 1, false, {0, false}},
        {{Rows::three, 1, Around::nothing}, true, 1, false, {0, false}},
        {{Rows::three, 1, Around::nothing}, true, 1, true, {1, false}},
        {{Rows::three, 2, Around::nothing}, true, 2, true, {2, false}},
        {{Rows::three, 1, Around::faces}, true, 2, true, {2, false}},
        {{Rows::three, 2, Around::faces}, true, 3, true, {2, true}},
        {{Rows::three, 2, Around::cube}, true, 4, true, {3, true}},
        {{Rows::all, 3, Around::cube}, true, 8, true, {4, true}}};
    return efforts[effort];
}

/// The best of all forms so far; numbers of the form are lanes of `form`.
struct Best {
    F form, error, flip, rows[2], distance;
    F code[3][3];
};

YL_SIMD_INLINE void keep_form(Mask better, ColorForm form, F error, Best& best) {
    update_where(better, set(static_cast<float>(form)), best.form);
    update_where(better, error, best.error);
}

YL_SIMD_INLINE void keep_halves(const Half& first, const Half& second, ColorForm form, float flip,
                                Mask allowed, Best& best) {
    const F error = first.error + second.error;
    const Mask better = and_mask(allowed, error < best.error);
    keep_form(better, form, error, best);
    update_where(better, set(flip), best.flip);
    update_where(better, first.row, best.rows[0]);
    update_where(better, second.row, best.rows[1]);
    for (std::size_t c = 0; c < 3; ++c) {
        update_where(better, first.code[c], best.code[0][c]);
        update_where(better, second.code[c], best.code[1][c]);
    }
}

YL_SIMD_INLINE Mask within_steps(const Half& first, const Half& second) {
    Mask all = zero() == zero();
    for (std::size_t c = 0; c < 3; ++c) {
        const F step = second.code[c] - first.code[c];
        all = and_mask(all, and_mask(step >= set(-4), step <= set(3)));
    }
    return all;
}

/// Halves of the differential form: each as it is best where the other allows it, else the one or the
/// other moved.
template <bool has_holes>
YL_SIMD_INLINE void try_differential(const ColorTexels& texels, const Effort& effort,
                                     std::size_t flip, const F (*means)[3], Mask allowed,
                                     Best& best) {
    const Half first = fit_half<has_holes, 5>(texels, half_texels[flip][0], effort.half, means[0],
                                              whole_range<5>());
    const Half second = fit_half<has_holes, 5>(texels, half_texels[flip][1], effort.half, means[1],
                                               whole_range<5>());
    const auto turned = static_cast<float>(flip);
    const Mask fits = within_steps(first, second);
    keep_halves(first, second, ColorForm::differential, turned, and_mask(allowed, fits), best);
    if (hn::AllTrue(Floats(), fits))
        return;
    const Mask others = hn::AndNot(fits, allowed);
    const Half near_first = fit_half<has_holes, 5>(texels, half_texels[flip][1], effort.half,
                                                   means[1], range_around(first, 4, 3));
    keep_halves(first, near_first, ColorForm::differential, turned, others, best);
    if (!effort.tries_all_halves)
        return;
    const Half near_second = fit_half<has_holes, 5>(texels, half_texels[flip][0], effort.half,
                                                    means[0], range_around(second, 3, 4));
    keep_halves(near_second, second, ColorForm::differential, turned, others, best);
}

YL_SIMD_INLINE void try_individual(const ColorTexels& texels, const Effort& effort,
                                   std::size_t flip, const F (*means)[3], Best& best) {
    Half halves[2];
    for (std::size_t half = 0; half < 2; ++half)
        halves[half] = fit_half<false, 4>(texels, half_texels[flip][half], effort.half, means[half],
                                          whole_range<4>());
    keep_halves(halves[0], halves[1], ColorForm::individual, static_cast<float>(flip),
                zero() == zero(), best);
}

YL_SIMD_INLINE void keep_pair(const Pair& pair, ColorForm form, Mask allowed, Best& best) {
    const Mask better = and_mask(allowed, pair.error < best.error);
    keep_form(better, form, pair.error, best);
    update_where(better, pair.distance, best.distance);
    for (std::size_t n = 0; n < 2; ++n)
        for (std::size_t c = 0; c < 3; ++c)
            update_where(better, pair.code[n][c], best.code[n][c]);
}

template <bool has_holes>
YL_SIMD_INLINE void try_pairs(const ColorTexels& texels, const Effort& effort, Mask allowed,
                              Best& best) {
    F means[2][3];
    two_means(texels, means);
    for (const bool exchanged : {false, true})
        keep_pair(fit_pair<PairForm::t, has_holes>(texels, effort.pair, means, exchanged),
                  ColorForm::t, allowed, best);
    // Exchanged colours of H would move its hole.
    if constexpr (!has_holes)
        keep_pair(fit_pair<PairForm::h, false>(texels, effort.pair, means, false), ColorForm::h,
                  allowed, best);
}

YL_SIMD_INLINE void try_plane(const ColorTexels& texels, const Effort& effort, Mask allowed,
                              Best& best) {
    const Plane plane = fit_plane(texels, effort.plane_rounds);
    const Mask better = and_mask(allowed, plane.error < best.error);
    keep_form(better, ColorForm::planar, plane.error, best);
    for (std::size_t n = 0; n < 3; ++n)
        for (std::size_t c = 0; c < 3; ++c)
            update_where(better, plane.code[n][c], best.code[n][c]);
}

/// An index where a block stores it: its high bit and its low bit are 16 apart.
YL_SIMD_INLINE I stored_index(I index, std::size_t texel) {
    const auto place = static_cast<int>(texel % 4 * 4 + texel / 4);
    return hn::ShiftLeftSame(hn::ShiftRight<1>(index), place + 16) |
           hn::ShiftLeftSame(index & set_int(1), place);
}

template <bool has_holes>
YL_SIMD_INLINE I indices_of_halves(const ColorTexels& texels, const Best& best) {
    const Mask is_individual = best.form == set(static_cast<float>(ColorForm::individual));
    F palettes[2][4][3];
    for (std::size_t half = 0; half < 2; ++half) {
        F color[3];
        for (std::size_t c = 0; c < 3; ++c) {
            const F code = best.code[half][c];
            color[c] = if_then_else(is_individual, color_of_code<4>(hn::Min(code, set(15))),
                                    color_of_code<5>(code));
        }
        const F small =
            hn::GatherIndex(Floats(), small_intensities.data(), to_int(best.rows[half]));
        const F large =
            hn::GatherIndex(Floats(), large_intensities.data(), to_int(best.rows[half]));
        add_to(color, has_holes ? zero() : small, palettes[half][0]);
        add_to(color, large, palettes[half][1]);
        add_to(color, has_holes ? zero() : zero() - small, palettes[half][2]);
        add_to(color, zero() - large, palettes[half][3]);
    }
    const Mask is_flipped = best.flip != zero();
    I indices = set_int(0);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        I across, down;
        nearest_in<has_holes>(texels, i, palettes[i % 4 / 2], across);
        nearest_in<has_holes>(texels, i, palettes[i / 8], down);
        indices = indices | stored_index(if_then_else(is_flipped, down, across), i);
    }
    return indices;
}

template <PairForm form, bool has_holes>
YL_SIMD_INLINE I indices_of_pair(const ColorTexels& texels, const Best& best) {
    Pair pair;
    for (std::size_t n = 0; n < 2; ++n)
        for (std::size_t c = 0; c < 3; ++c)
            pair.code[n][c] = hn::Min(best.code[n][c], set(15));
    pair.distance = best.distance;
    F palette[4][3];
    palette_of<form>(pair, palette);
    I indices = set_int(0);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        I index;
        nearest_in<has_holes>(texels, i, palette, index);
        indices = indices | stored_index(index, i);
    }
    return indices;
}

/// Index 2 where there is a hole.
YL_SIMD_INLINE I with_holes(const ColorTexels& texels, I indices) {
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const Mask is_hole = has_bit(texels.hole, static_cast<std::int32_t>(i));
        const I all = stored_index(set_int(3), i), two = stored_index(set_int(2), i);
        indices = if_then_else(is_hole, hn::AndNot(all, indices) | two, indices);
    }
    return indices;
}

template <bool has_holes>
YL_SIMD_INLINE I indices_of(const ColorTexels& texels, const Best& best) {
    const auto is_form = [&](ColorForm form) { return best.form == set(static_cast<float>(form)); };
    I indices = indices_of_halves<has_holes>(texels, best);
    const Mask is_t = is_form(ColorForm::t);
    if (!all_false(is_t))
        indices =
            if_then_else(is_t, indices_of_pair<PairForm::t, has_holes>(texels, best), indices);
    const Mask is_h = is_form(ColorForm::h);
    if (!has_holes && !all_false(is_h))
        indices = if_then_else(is_h, indices_of_pair<PairForm::h, false>(texels, best), indices);
    return has_holes ? with_holes(texels, indices) : indices;
}

/// The lanes' numbers, one after the other.
struct Spilled {
    explicit Spilled(F value) { hn::Store(to_int(value), Ints(), numbers); }
    explicit Spilled(I value) { hn::Store(value, Ints(), numbers); }
    [[nodiscard]] std::uint32_t at(std::size_t lane) const {
        return static_cast<std::uint32_t>(numbers[lane]);
    }
    HWY_ALIGN std::int32_t numbers[hn::MaxLanes(Ints())];
};

YL_SIMD_INLINE void write(const Best& best, I indices, I holes, std::size_t count,
                          std::size_t words, std::byte* blocks) {
    const Spilled form(best.form), flip(best.flip), first(best.rows[0]), second(best.rows[1]),
        distance(best.distance), stored(indices), hole(holes);
    const Spilled codes[3][3] = {
        {Spilled(best.code[0][0]), Spilled(best.code[0][1]), Spilled(best.code[0][2])},
        {Spilled(best.code[1][0]), Spilled(best.code[1][1]), Spilled(best.code[1][2])},
        {Spilled(best.code[2][0]), Spilled(best.code[2][1]), Spilled(best.code[2][2])}};
    for (std::size_t lane = 0; lane < count; ++lane) {
        SettledBlock block{.form = static_cast<ColorForm>(form.at(lane)),
                           .rows = {first.at(lane), second.at(lane)},
                           .distance = distance.at(lane),
                           .is_flipped = flip.at(lane) != 0,
                           .has_holes = hole.at(lane) != 0,
                           .indices = stored.at(lane)};
        for (std::size_t n = 0; n < 3; ++n)
            for (std::size_t c = 0; c < 3; ++c)
                block.codes[n][c] = codes[n][c].at(lane);
        store(blocks + lane * words * 4, swap_bytes(packed_block(block)));
    }
}

YL_SIMD_INLINE void load_texels(const std::byte* bytes, std::size_t count,
                                const ColorSettings& settings, bool cuts_out, ColorTexels& texels) {
    const I offsets = lane_offsets(count, texels_of_block);
    texels.hole = set_int(0);
    for (std::size_t c = 0; c < 3; ++c)
        texels.channel_weight[c] = set(settings.channel_weights[c]);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const I word = gather_words(bytes, i, offsets);
        for (std::size_t c = 0; c < 3; ++c)
            texels.color[i][c] =
                to_float(hn::ShiftRightSame(word, static_cast<int>(8 * c)) & set_int(255));
        const F alpha = to_float(hn::ShiftRight<24>(word) & set_int(255));
        texels.weight[i] = settings.weigh_by_alpha && !cuts_out ? alpha * set(1.0F / 255) : set(1);
        if (cuts_out) {
            const Mask is_hole = alpha < set(127.5F);
            texels.weight[i] = hn::IfThenZeroElse(is_hole, set(1));
            texels.hole =
                texels.hole | if_then_else(is_hole, set_int(std::int32_t{1} << i), set_int(0));
        }
    }
}

YL_SIMD_INLINE Best nothing_yet() {
    Best best;
    best.form = set(static_cast<float>(ColorForm::differential));
    best.error = set(never);
    best.flip = best.rows[0] = best.rows[1] = best.distance = zero();
    for (auto& code : best.code)
        for (F& channel : code)
            channel = zero();
    return best;
}

/// Both ways to cut the block, and with `has_holes` only what can have them.
template <bool has_holes>
YL_SIMD_INLINE void try_halves(const ColorTexels& texels, const Effort& effort,
                               bool allows_individual, Mask allowed, Best& best) {
    for (std::size_t flip = 0; flip < 2; ++flip) {
        F means[2][3];
        for (std::size_t half = 0; half < 2; ++half)
            mean_of(texels, half_texels[flip][half], means[half]);
        try_differential<has_holes>(texels, effort, flip, means, allowed, best);
        if (!has_holes && allows_individual)
            try_individual(texels, effort, flip, means, best);
    }
}

template <bool cuts_out>
void encode_group(const std::byte* bytes, std::size_t count, const ColorSettings& settings,
                  std::size_t words, std::byte* blocks) {
    ColorTexels texels;
    load_texels(bytes, count, settings, cuts_out, texels);
    const Effort effort = effort_of(settings.effort);
    Best best = nothing_yet();
    const Mask has_hole = hn::RebindMask(Floats(), texels.hole != set_int(0));
    const Mask is_whole = hn::Not(has_hole);
    try_halves<false>(texels, effort, !cuts_out, is_whole, best);
    if (!settings.etc1_only)
        try_plane(texels, effort, is_whole, best);
    if (effort.tries_pairs && !settings.etc1_only)
        try_pairs<false>(texels, effort, is_whole, best);
    I indices = indices_of<false>(texels, best);
    if (cuts_out && !all_false(has_hole)) {
        try_halves<true>(texels, effort, false, has_hole, best);
        if (effort.tries_pairs)
            try_pairs<true>(texels, effort, has_hole, best);
        indices = if_then_else(has_hole, indices_of<true>(texels, best), indices);
    }
    write(best, indices, texels.hole, count, words, blocks);
}

template <bool cuts_out>
YL_SIMD_INLINE void encode_all(const std::byte* texels, std::size_t count,
                               const ColorSettings& settings, std::size_t words,
                               std::byte* blocks) {
    for (std::size_t at = 0; at < count; at += lanes())
        encode_group<cuts_out>(texels + at * 4 * texels_of_block, HWY_MIN(lanes(), count - at),
                               settings, words, blocks + at * words * 4);
}

void encode_whole(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                  std::size_t words, std::byte* blocks) {
    encode_all<false>(texels, count, settings, words, blocks);
}

void encode_cut_out(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                    std::size_t words, std::byte* blocks) {
    encode_all<true>(texels, count, settings, words, blocks);
}

}  // namespace yl::etc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::etc {

HWY_EXPORT(encode_whole);
HWY_EXPORT(encode_cut_out);

void encode_rgb(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                std::size_t block_words, std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode_whole)(texels, count, settings, block_words, blocks);
}

void encode_rgb_cut_out(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                        std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode_cut_out)(texels, count, settings, 2, blocks);
}

}  // namespace yl::etc
#endif
