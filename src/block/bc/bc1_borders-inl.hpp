// Choices of indices as borders in the order of the texels along their axis.

#if defined(YL_BLOCK_BC_BC1_BORDERS_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_BC_BC1_BORDERS_INL_HPP
#undef YL_BLOCK_BC_BC1_BORDERS_INL_HPP
#else
#define YL_BLOCK_BC_BC1_BORDERS_INL_HPP
#endif

#include "block/bc/bc1_ends-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

/// Sums of the first texels in the order along the axis, for each number of them: red, green, blue
/// and weights.
struct Prefixes {
    HWY_ALIGN float sums[texels_of_block + 1][4][most_lanes];

    YL_SIMD_INLINE F at(std::size_t count, std::size_t which) const {
        return hn::Load(Floats(), sums[count][which]);
    }
    YL_SIMD_INLINE F at(I offsets, std::size_t which) const {
        return hn::GatherIndex(Floats(), &sums[0][which][0], offsets);
    }
};

YL_SIMD_INLINE I prefix_offsets(F border) {
    return to_int(border) * set_int(4 * most_lanes) + hn::Iota(Ints(), 0);
}

template <Form form, class Place>
YL_SIMD_INLINE Choice sums_for(const Prefixes& prefixes, const Place* borders) {
    Choice sums;
    const auto add = [&](std::size_t which) HWY_ATTR {
        F sum = prefixes.at(borders[0], which) + prefixes.at(borders[1], which);
        if constexpr (form == Form::four)
            sum = sum + prefixes.at(borders[2], which);
        return sum * set(1.0F / steps_of(form));
    };
    const F w0 = prefixes.at(borders[0], 3);
    const F w1 = prefixes.at(borders[1], 3);
    if constexpr (form == Form::four) {
        const F w2 = prefixes.at(borders[2], 3);
        sums.a = (w0 + w1 + w2) * set(1.0F / 3);
        sums.aa = (set(5) * w0 + set(3) * w1 + w2) * set(1.0F / 9);
    } else {
        sums.a = (w0 + w1) * set(0.5F);
        sums.aa = (set(3) * w0 + w1) * set(0.25F);
    }
    sums.weight = prefixes.at(texels_of_block, 3);
    for (std::size_t c = 0; c < 3; ++c) {
        sums.a_color[c] = add(c);
        sums.color[c] = prefixes.at(texels_of_block, c);
    }
    return sums;
}

/// Sorts 16 keys in each lane by Batcher's odd-even merges (Knuth, volume 3, algorithm 5.2.2 M).
YL_SIMD_INLINE void sort_keys(I* keys) {
    constexpr std::size_t n = texels_of_block;
    for (std::size_t p = 1; p < n; p *= 2)
        for (std::size_t k = p; k >= 1; k /= 2)
            for (std::size_t j = k % p; j + k < n; j += 2 * k)
                for (std::size_t i = 0; i < k && i + j + k < n; ++i)
                    if ((i + j) / (2 * p) == (i + j + k) / (2 * p)) {
                        const I low = hn::Min(keys[i + j], keys[i + j + k]);
                        keys[i + j + k] = hn::Max(keys[i + j], keys[i + j + k]);
                        keys[i + j] = low;
                    }
}

struct Order {
    Prefixes prefixes;
    F share[texels_of_block];  // along the axis, 0 to 1, of each texel
};

/// Puts the texels in order along the axis.
YL_SIMD_INLINE void put_in_order(const ColorTexels& texels, Order& order) {
    F mean[3];
    const Axis<3> axis = axis_of(texels, mean);
    F low = set(never), high = set(-never);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F place = zero();
        for (std::size_t c = 0; c < 3; ++c)
            place = place + (texels.color[i][c] - mean[c]) * axis.direction[c];
        order.share[i] = place;
        const Mask counts = texels.weight[i] > zero();
        low = if_then_else(counts, hn::Min(low, place), low);
        high = if_then_else(counts, hn::Max(high, place), high);
    }
    const F scale = inverse_or_zero(high - low);
    I keys[texels_of_block];
    HWY_ALIGN float weighted[texels_of_block][4][most_lanes];
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        order.share[i] = clamped((order.share[i] - low) * scale, zero(), set(1));
        keys[i] = hn::ShiftLeft<4>(to_int(order.share[i] * set(1 << 20))) |
                  set_int(static_cast<std::int32_t>(i));
        for (std::size_t c = 0; c < 3; ++c)
            hn::Store(texels.color[i][c] * texels.weight[i], Floats(), weighted[i][c]);
        hn::Store(texels.weight[i], Floats(), weighted[i][3]);
    }
    sort_keys(keys);
    F sums[4] = {zero(), zero(), zero(), zero()};
    for (std::size_t i = 0; i <= texels_of_block; ++i) {
        for (std::size_t which = 0; which < 4; ++which)
            hn::Store(sums[which], Floats(), order.prefixes.sums[i][which]);
        if (i == texels_of_block)
            break;
        const I offsets = (keys[i] & set_int(15)) * set_int(4 * most_lanes) + hn::Iota(Ints(), 0);
        for (std::size_t which = 0; which < 4; ++which)
            sums[which] = sums[which] + hn::GatherIndex(Floats(), &weighted[0][which][0], offsets);
    }
}

/// Borders that share the range evenly: how many texels lie before each.
template <Form form>
YL_SIMD_INLINE void even_borders(const Order& order, F* borders) {
    constexpr std::size_t count = form == Form::four ? 3 : 2;
    for (std::size_t b = 0; b < count; ++b) {
        const F limit = set((static_cast<float>(b) + 0.5F) / static_cast<float>(count));
        F below = zero();
        for (std::size_t i = 0; i < texels_of_block; ++i)
            below = below + hn::IfThenElseZero(order.share[i] < limit, set(1));
        borders[b] = below;
    }
}

template <Form form>
YL_SIMD_INLINE void try_borders(const ColorTexels& texels, const Order& order, const F* borders,
                                F* best_borders, ColorEnds& best) {
    constexpr std::size_t count = form == Form::four ? 3 : 2;
    I offsets[count];
    for (std::size_t b = 0; b < count; ++b)
        offsets[b] = prefix_offsets(borders[b]);
    ColorEnds ends;
    solve(sums_for<form>(order.prefixes, offsets), texels, ends);
    const Mask better = ends.error < best.error;
    for (std::size_t b = 0; b < count; ++b)
        update_where(better, borders[b], best_borders[b]);
    for (std::size_t c = 0; c < 3; ++c) {
        update_where(better, ends.from[c], best.from[c]);
        update_where(better, ends.to[c], best.to[c]);
    }
    update_where(better, ends.error, best.error);
}

/// Moves one border at a time as long as it helps.
template <Form form>
YL_SIMD_INLINE void move_borders(const ColorTexels& texels, const Order& order, int rounds,
                                 ColorEnds& best) {
    constexpr std::size_t count = form == Form::four ? 3 : 2;
    F borders[count];
    even_borders<form>(order, borders);
    F found[count];
    for (std::size_t b = 0; b < count; ++b)
        found[b] = borders[b];
    try_borders<form>(texels, order, borders, found, best);
    for (int round = 0; round < rounds; ++round) {
        const F before = best.error;
        for (std::size_t b = 0; b < count; ++b)
            borders[b] = found[b];
        for (std::size_t b = 0; b < count; ++b)
            for (const float step : {-1.0F, 1.0F}) {
                const F kept = borders[b];
                const F lowest = b == 0 ? zero() : borders[b - 1];
                const F highest = b + 1 == count ? set(texels_of_block) : borders[b + 1];
                borders[b] = clamped(kept + set(step), lowest, highest);
                try_borders<form>(texels, order, borders, found, best);
                borders[b] = kept;
            }
        if (all_false(best.error < before))
            return;
    }
}

/// Every choice of borders (ordered cluster fit; S. Brown, "DXT compression techniques", 2006).
template <Form form>
YL_SIMD_INLINE void try_all_borders(const ColorTexels& texels, const Order& order,
                                    ColorEnds& best) {
    for (std::size_t b0 = 0; b0 <= texels_of_block; ++b0)
        for (std::size_t b1 = b0; b1 <= texels_of_block; ++b1)
            for (std::size_t b2 = form == Form::four ? b1 : texels_of_block; b2 <= texels_of_block;
                 ++b2) {
                const std::size_t borders[3] = {b0, b1, b2};
                ColorEnds ends;
                solve(sums_for<form>(order.prefixes, borders), texels, ends);
                const Mask better = ends.error < best.error;
                for (std::size_t c = 0; c < 3; ++c) {
                    update_where(better, ends.from[c], best.from[c]);
                    update_where(better, ends.to[c], best.to[c]);
                }
                update_where(better, ends.error, best.error);
            }
}

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
