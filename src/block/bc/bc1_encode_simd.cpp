// BC1: two colours of 5, 6 and 5 bits, and what lies between them.
//
// Texels are sorted along the axis of their greatest spread; a choice of indices is then a few
// borders in that order, and the best colours for it follow from sums (least squares). Low efforts
// move the borders downhill from an even start; high efforts try all of them.
#include "base/bytes.hpp"
#include "block/bc/encode.hpp"
#include "block/bc/solid_colors.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "block/bc/bc1_encode_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "block/bc/lanes-inl.hpp"
#include "block/bc/principal_axis-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

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

HWY_INLINE F greatest_code(std::size_t channel) {
    return number(channel == 1 ? 63.0F : 31.0F);
}

/// What the decoder makes of 5 or 6 bits: the highest ones repeated below.
HWY_INLINE F widened(F code, std::size_t channel) {
    const I bits = to_whole(code);
    if (channel == 1)
        return to_number(hn::ShiftLeft<2>(bits) | hn::ShiftRight<4>(bits));
    return to_number(hn::ShiftLeft<3>(bits) | hn::ShiftRight<2>(bits));
}

HWY_INLINE F nearest_code(F value, std::size_t channel) {
    const F greatest = greatest_code(channel);
    return rounded(clamped(value * greatest * number(1.0F / 255), zero(), greatest));
}

/// The sums that settle the best ends for one choice of indices: `a` counts how much of the first
/// end a texel has.
struct Choice {
    F a, aa, weight;  // sums of a, of its square, of the weights
    F a_color[3];     // of a times the colour
    F color[3];
};

/// Ends by least squares, rounded to codes, and their error but for a constant.
HWY_INLINE void solve(const Choice& sums, const ColorTexels& texels, ColorEnds& ends) {
    const F ab = sums.a - sums.aa;
    const F bb = sums.weight - sums.a - ab;
    const F determinant = sums.aa * bb - ab * ab;
    const Where solvable = determinant > number(1e-4F);
    const F inverse = inverse_or_zero(determinant);
    const F mean_factor = inverse_or_zero(sums.weight);
    F error = zero();
    for (std::size_t c = 0; c < 3; ++c) {
        const F p = sums.a_color[c];
        const F q = sums.color[c] - p;
        const F mean = sums.color[c] * mean_factor;
        ends.from[c] = nearest_code(choose(solvable, (bb * p - ab * q) * inverse, mean), c);
        ends.to[c] = nearest_code(choose(solvable, (sums.aa * q - ab * p) * inverse, mean), c);
        const F from = widened(ends.from[c], c);
        const F to = widened(ends.to[c], c);
        const F part =
            from * (from * sums.aa + number(2) * (to * ab - p)) + to * (to * bb - number(2) * q);
        error = error + part * texels.channel_weight[c];
    }
    ends.error = error;
}

/// Sums of the first texels in the order along the axis, for each number of them: red, green, blue
/// and weights.
struct Prefixes {
    HWY_ALIGN float sums[texels_of_block + 1][4][most_lanes];

    HWY_INLINE F at(std::size_t count, std::size_t which) const {
        return hn::Load(Floats(), sums[count][which]);
    }
    HWY_INLINE F at(I offsets, std::size_t which) const {
        return hn::GatherIndex(Floats(), &sums[0][which][0], offsets);
    }
};

HWY_INLINE I prefix_offsets(F border) {
    return to_whole(border) * whole(4 * most_lanes) + hn::Iota(Ints(), 0);
}

template <Form form, class Place>
HWY_INLINE Choice sums_for(const Prefixes& prefixes, const Place* borders) {
    Choice sums;
    const auto add = [&](std::size_t which) HWY_ATTR {
        F sum = prefixes.at(borders[0], which) + prefixes.at(borders[1], which);
        if constexpr (form == Form::four)
            sum = sum + prefixes.at(borders[2], which);
        return sum * number(1.0F / steps_of(form));
    };
    const F w0 = prefixes.at(borders[0], 3);
    const F w1 = prefixes.at(borders[1], 3);
    if constexpr (form == Form::four) {
        const F w2 = prefixes.at(borders[2], 3);
        sums.a = (w0 + w1 + w2) * number(1.0F / 3);
        sums.aa = (number(5) * w0 + number(3) * w1 + w2) * number(1.0F / 9);
    } else {
        sums.a = (w0 + w1) * number(0.5F);
        sums.aa = (number(3) * w0 + w1) * number(0.25F);
    }
    sums.weight = prefixes.at(texels_of_block, 3);
    for (std::size_t c = 0; c < 3; ++c) {
        sums.a_color[c] = add(c);
        sums.color[c] = prefixes.at(texels_of_block, c);
    }
    return sums;
}

/// Sorts 16 keys in each lane by Batcher's odd-even merges (Knuth, volume 3, algorithm 5.2.2 M).
HWY_INLINE void sort_keys(I* keys) {
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

HWY_INLINE Axis<3> axis_of(const ColorTexels& texels, F* mean) {
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

/// Puts the texels in order along the axis.
HWY_INLINE void put_in_order(const ColorTexels& texels, Order& order) {
    F mean[3];
    const Axis<3> axis = axis_of(texels, mean);
    F low = number(never), high = number(-never);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F place = zero();
        for (std::size_t c = 0; c < 3; ++c)
            place = place + (texels.color[i][c] - mean[c]) * axis.direction[c];
        order.share[i] = place;
        const Where counts = texels.weight[i] > zero();
        low = choose(counts, hn::Min(low, place), low);
        high = choose(counts, hn::Max(high, place), high);
    }
    const F scale = inverse_or_zero(high - low);
    I keys[texels_of_block];
    HWY_ALIGN float weighted[texels_of_block][4][most_lanes];
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        order.share[i] = clamped((order.share[i] - low) * scale, zero(), number(1));
        keys[i] = hn::ShiftLeft<4>(to_whole(order.share[i] * number(1 << 20))) |
                  whole(static_cast<std::int32_t>(i));
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
        const I offsets = (keys[i] & whole(15)) * whole(4 * most_lanes) + hn::Iota(Ints(), 0);
        for (std::size_t which = 0; which < 4; ++which)
            sums[which] = sums[which] + hn::GatherIndex(Floats(), &weighted[0][which][0], offsets);
    }
}

/// Borders that share the range evenly: how many texels lie before each.
template <Form form>
HWY_INLINE void even_borders(const Order& order, F* borders) {
    constexpr std::size_t count = form == Form::four ? 3 : 2;
    for (std::size_t b = 0; b < count; ++b) {
        const F limit = number((static_cast<float>(b) + 0.5F) / static_cast<float>(count));
        F below = zero();
        for (std::size_t i = 0; i < texels_of_block; ++i)
            below = below + hn::IfThenElseZero(order.share[i] < limit, number(1));
        borders[b] = below;
    }
}

template <Form form>
HWY_INLINE void try_borders(const ColorTexels& texels, const Order& order, const F* borders,
                            F* best_borders, ColorEnds& best) {
    constexpr std::size_t count = form == Form::four ? 3 : 2;
    I offsets[count];
    for (std::size_t b = 0; b < count; ++b)
        offsets[b] = prefix_offsets(borders[b]);
    ColorEnds ends;
    solve(sums_for<form>(order.prefixes, offsets), texels, ends);
    const Where better = ends.error < best.error;
    for (std::size_t b = 0; b < count; ++b)
        keep(better, borders[b], best_borders[b]);
    for (std::size_t c = 0; c < 3; ++c) {
        keep(better, ends.from[c], best.from[c]);
        keep(better, ends.to[c], best.to[c]);
    }
    keep(better, ends.error, best.error);
}

/// Moves one border at a time as long as it helps.
template <Form form>
HWY_INLINE void move_borders(const ColorTexels& texels, const Order& order, int rounds,
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
                const F highest = b + 1 == count ? number(texels_of_block) : borders[b + 1];
                borders[b] = clamped(kept + number(step), lowest, highest);
                try_borders<form>(texels, order, borders, found, best);
                borders[b] = kept;
            }
        if (nowhere(best.error < before))
            return;
    }
}

/// Every choice of borders (ordered cluster fit; S. Brown, "DXT compression techniques", 2006).
template <Form form>
HWY_INLINE void try_all_borders(const ColorTexels& texels, const Order& order, ColorEnds& best) {
    for (std::size_t b0 = 0; b0 <= texels_of_block; ++b0)
        for (std::size_t b1 = b0; b1 <= texels_of_block; ++b1)
            for (std::size_t b2 = form == Form::four ? b1 : texels_of_block; b2 <= texels_of_block;
                 ++b2) {
                const std::size_t borders[3] = {b0, b1, b2};
                ColorEnds ends;
                solve(sums_for<form>(order.prefixes, borders), texels, ends);
                const Where better = ends.error < best.error;
                for (std::size_t c = 0; c < 3; ++c) {
                    keep(better, ends.from[c], best.from[c]);
                    keep(better, ends.to[c], best.to[c]);
                }
                keep(better, ends.error, best.error);
            }
}

/// The steps that the texels choose between two ends, and the error.
struct Steps {
    F step[texels_of_block];
    F error;
};

/// The part of the error that lies along the vectors themselves and does not turn them.
template <Form form>
HWY_INLINE F radial_error(const ColorTexels& texels, const F* from, const F* direction,
                          const Steps& steps) {
    F sum = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F share = steps.step[i] * number(1.0F / steps_of(form));
        F radial = zero();
        for (std::size_t c = 0; c < 3; ++c)
            radial = radial + (from[c] + direction[c] * share - texels.color[i][c]) *
                                  (texels.color[i][c] - number(127.5F));
        sum = sum + squared(radial);
    }
    return sum * number(1.0F / (127.5F * 127.5F));
}

template <Form form>
HWY_INLINE void choose_steps(const ColorTexels& texels, const ColorEnds& ends, Steps& steps) {
    F from[3], direction[3], weighted[3];
    F length = zero();
    for (std::size_t c = 0; c < 3; ++c) {
        from[c] = widened(ends.from[c], c);
        direction[c] = widened(ends.to[c], c) - from[c];
        weighted[c] = direction[c] * texels.channel_weight[c];
        length = length + direction[c] * weighted[c];
    }
    const F scale = number(steps_of(form)) * inverse_or_zero(length);
    steps.error = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F along = zero();
        for (std::size_t c = 0; c < 3; ++c)
            along = along + (texels.color[i][c] - from[c]) * weighted[c];
        F step = rounded(clamped(along * scale, zero(), number(steps_of(form))));
        const F share = step * number(1.0F / steps_of(form));
        F distance = zero();
        for (std::size_t c = 0; c < 3; ++c)
            distance = distance + squared(from[c] + direction[c] * share - texels.color[i][c]) *
                                      texels.channel_weight[c];
        if constexpr (form == Form::three_with_hole) {  // black is the fourth colour
            const F to_black = squared(texels.color[i][0]) * texels.channel_weight[0] +
                               squared(texels.color[i][1]) * texels.channel_weight[1] +
                               squared(texels.color[i][2]) * texels.channel_weight[2];
            step = choose(to_black < distance, number(3), step);
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
HWY_INLINE Choice sums_for(const ColorTexels& texels, const Steps& steps) {
    Choice sums;
    sums.a = sums.aa = sums.weight = zero();
    for (std::size_t c = 0; c < 3; ++c)
        sums.a_color[c] = sums.color[c] = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F weight = texels.weight[i];
        if constexpr (form == Form::three_with_hole)
            weight = hn::IfThenZeroElse(steps.step[i] == number(3), weight);
        const F a = number(1) - steps.step[i] * number(1.0F / steps_of(form));
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

HWY_INLINE Neighbours neighbours_of(F code, std::size_t channel) {
    Neighbours result;
    for (std::size_t i = 0; i < 3; ++i) {
        result.code[i] =
            clamped(code + number(static_cast<float>(i) - 1), zero(), greatest_code(channel));
        result.value[i] = widened(result.code[i], channel);
    }
    return result;
}

/// The best ends for the steps that texels have chosen: those of least squares, and in each channel
/// their neighbours by the same quadratic form.
template <Form form>
HWY_INLINE void nudge(const ColorTexels& texels, const Steps& steps, ColorEnds& ends) {
    const Choice sums = sums_for<form>(texels, steps);
    solve(sums, texels, ends);
    const F ab = sums.a - sums.aa;
    const F bb = sums.weight - sums.a - ab;
    for (std::size_t c = 0; c < 3; ++c) {
        const F p = sums.a_color[c];
        const F q = sums.color[c] - p;
        const Neighbours from = neighbours_of(ends.from[c], c);
        const Neighbours to = neighbours_of(ends.to[c], c);
        F least = number(never);
        for (std::size_t a = 0; a < 3; ++a) {
            const F x = from.value[a];
            const F x_part = x * (x * sums.aa - number(2) * p);
            for (std::size_t b = 0; b < 3; ++b) {
                const F y = to.value[b];
                const F error = x_part + y * (y * bb + number(2) * (x * ab - q));
                const Where better = error < least;
                keep(better, error, least);
                keep(better, from.code[a], ends.from[c]);
                keep(better, to.code[b], ends.to[c]);
            }
        }
    }
}

/// The ends of the range of the texels along their axis.
HWY_INLINE ColorEnds ends_of_range(const ColorTexels& texels) {
    F mean[3];
    const Axis<3> axis = axis_of(texels, mean);
    F low = number(never), high = number(-never);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        F place = zero();
        for (std::size_t c = 0; c < 3; ++c)
            place = place + (texels.color[i][c] - mean[c]) * axis.direction[c];
        const Where counts = texels.weight[i] > zero();
        low = choose(counts, hn::Min(low, place), low);
        high = choose(counts, hn::Max(high, place), high);
    }
    const F inset = (high - low) * number(1.0F / 16);
    ColorEnds ends;
    for (std::size_t c = 0; c < 3; ++c) {
        ends.from[c] = nearest_code(mean[c] + axis.direction[c] * (low + inset), c);
        ends.to[c] = nearest_code(mean[c] + axis.direction[c] * (high - inset), c);
    }
    ends.error = number(never);
    return ends;
}

/// The real error of `ends`, then of what they become when texels and ends are settled in turn.
template <Form form>
HWY_INLINE void settle(const ColorTexels& texels, int rounds, ColorEnds& ends) {
    ColorEnds present = ends;
    Steps steps;
    choose_steps<form>(texels, present, steps);
    ends.error = steps.error;
    Where going = zero() == zero();  // each lane stops by itself, whoever shares the vector
    for (int round = 0; round < rounds; ++round) {
        nudge<form>(texels, steps, present);
        choose_steps<form>(texels, present, steps);
        going = both(going, steps.error < ends.error);
        for (std::size_t c = 0; c < 3; ++c) {
            keep(going, present.from[c], ends.from[c]);
            keep(going, present.to[c], ends.to[c]);
        }
        keep(going, steps.error, ends.error);
        if (nowhere(going))
            return;
    }
}

constexpr int by_range = -1;      // no borders: ends of the range, settled
constexpr int all_borders = 100;  // every choice of them

struct Effort {
    int border_rounds;
    int settle_rounds;
    bool tries_three;
    bool tries_black;  // as the fourth colour of opaque blocks; Direct3D, Metal and WebGPU, which
                       // know no BC1 without alpha, see holes there
};

HWY_INLINE Effort effort_of(int effort) {
    switch (effort) {
        case 0:
            return {by_range, 1, false, false};
        case 1:
            return {by_range, 2, false, false};
        case 2:
            return {by_range, 3, false, false};
        case 3:
            return {by_range, 2, true, false};
        case 4:
            return {by_range, 2, true, false};
        case 5:
            return {by_range, 3, true, false};
        case 6:
            return {3, 2, true, false};
        case 7:
            return {8, 3, true, false};
        default:
            return {all_borders, effort, true, true};
    }
}

template <Form form>
HWY_INLINE ColorEnds find_ends(const ColorTexels& texels, const Order& order,
                               const Effort& effort) {
    ColorEnds ends;
    if (effort.border_rounds == by_range) {
        ends = ends_of_range(texels);
        settle<form>(texels, effort.settle_rounds, ends);
        return ends;
    }
    ends.error = number(never);
    for (std::size_t c = 0; c < 3; ++c)
        ends.from[c] = ends.to[c] = zero();
    if (effort.border_rounds == all_borders)
        try_all_borders<form>(texels, order, ends);
    else
        move_borders<form>(texels, order, effort.border_rounds, ends);
    settle<form>(texels, effort.settle_rounds, ends);
    return ends;
}

/// Dark texels take the fourth colour, which is black; the others are fitted without them.
HWY_INLINE ColorEnds find_ends_with_black(const ColorTexels& texels, const Effort& effort) {
    ColorTexels others = texels;
    F dark = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F brightest =
            hn::Max(texels.color[i][0], hn::Max(texels.color[i][1], texels.color[i][2]));
        const Where is_dark = brightest < number(28);
        others.weight[i] = hn::IfThenZeroElse(is_dark, texels.weight[i]);
        dark = dark + hn::IfThenElseZero(is_dark, number(1));
    }
    ColorEnds ends;
    ends.error = number(never);
    for (std::size_t c = 0; c < 3; ++c)
        ends.from[c] = ends.to[c] = zero();
    const Where has_dark = dark > zero();
    if (nowhere(has_dark))
        return ends;
    Order order;
    if (effort.border_rounds != by_range)
        put_in_order(others, order);
    ends = find_ends<Form::three>(others, order, effort);
    settle<Form::three_with_hole>(texels, effort.settle_rounds, ends);
    ends.error = choose(has_dark, ends.error, number(never));
    return ends;
}

/// The nearest that two colours come to the mean, when all texels take a third of the way.
HWY_INLINE void try_solid(const ColorTexels& texels, ColorEnds& best) {
    F weight = zero();
    F sum[3] = {zero(), zero(), zero()};
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        weight = weight + texels.weight[i];
        for (std::size_t c = 0; c < 3; ++c)
            sum[c] = sum[c] + texels.weight[i] * texels.color[i][c];
    }
    ColorEnds ends;
    for (std::size_t c = 0; c < 3; ++c) {
        const I mean = to_whole(rounded(sum[c] * inverse_or_zero(weight)));
        const auto& table = c == 1 ? solid_of_6_bits : solid_of_5_bits;
        const I pair = hn::GatherIndex(Ints(), table.data(), mean);
        ends.from[c] = to_number(pair & whole(63));
        ends.to[c] = to_number(hn::ShiftRight<8>(pair));
    }
    Steps steps;
    choose_steps<Form::four>(texels, ends, steps);
    ends.error = steps.error;
    const Where better = ends.error < best.error;
    for (std::size_t c = 0; c < 3; ++c) {
        keep(better, ends.from[c], best.from[c]);
        keep(better, ends.to[c], best.to[c]);
    }
    keep(better, ends.error, best.error);
}

HWY_INLINE I packed(const F* codes) {
    return hn::ShiftLeft<11>(to_whole(codes[0])) | hn::ShiftLeft<5>(to_whole(codes[1])) |
           to_whole(codes[2]);
}

/// Two bits a texel, for ends as they are (`flip`: for swapped ones).
template <Form form>
HWY_INLINE I indices_of(const Steps& steps, Where flip, I hole) {
    I bits = whole(0);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F last = number(steps_of(form));
        const F step = choose(flip, last - steps.step[i], steps.step[i]);
        // first end 0, second end 1, between them 2 and 3
        F index = choose(step == zero(), zero(), choose(step == last, number(1), step + number(1)));
        if constexpr (form != Form::four) {
            index = choose(steps.step[i] == number(3), number(3), index);
            index = choose(has_bit(hole, static_cast<std::int32_t>(i)), number(3), index);
        }
        bits = bits | hn::ShiftLeftSame(to_whole(index), static_cast<int>(2 * i));
    }
    return bits;
}

struct Words {
    I colors, indices;
};

/// `orders`: whether the order of the colours tells the forms apart.
HWY_INLINE Words words_of_four(const ColorTexels& texels, const ColorEnds& ends, bool orders) {
    Steps steps;
    choose_steps<Form::four>(texels, ends, steps);
    const I from = packed(ends.from);
    const I to = packed(ends.to);
    const Where flip = orders ? hn::RebindMask(Floats(), from < to) : zero() < zero();
    Words words;
    words.colors = choose(flip, to | hn::ShiftLeft<16>(from), from | hn::ShiftLeft<16>(to));
    words.indices = indices_of<Form::four>(steps, flip, whole(0));
    const Where alike = hn::RebindMask(Floats(), from == to);
    words.indices = choose(alike, whole(0), words.indices);
    return words;
}

template <Form form>
HWY_INLINE Words words_of_three(const ColorTexels& texels, const ColorEnds& ends) {
    Steps steps;
    choose_steps<form>(texels, ends, steps);
    const I from = packed(ends.from);
    const I to = packed(ends.to);
    const Where flip = hn::RebindMask(Floats(), from > to);
    return {choose(flip, to | hn::ShiftLeft<16>(from), from | hn::ShiftLeft<16>(to)),
            indices_of<form>(steps, flip, texels.hole)};
}

HWY_INLINE void load_texels(const std::byte* bytes, std::size_t count,
                            const ColorSettings& settings, bool cuts_out, ColorTexels& texels) {
    const I offsets = lane_offsets(count, texels_of_block);
    texels.hole = whole(0);
    texels.are_normals = settings.are_normals;
    for (std::size_t c = 0; c < 3; ++c)
        texels.channel_weight[c] = number(settings.channel_weights[c]);
    const auto* words = reinterpret_cast<const std::int32_t*>(bytes);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const I word = hn::GatherIndex(Ints(), words + i, offsets);
        for (std::size_t c = 0; c < 3; ++c)
            texels.color[i][c] =
                to_number(hn::ShiftRightSame(word, static_cast<int>(8 * c)) & whole(255));
        const F alpha = to_number(hn::ShiftRight<24>(word) & whole(255));
        const Where is_hole = alpha < number(127.5F);
        texels.weight[i] = number(1);
        if (settings.weigh_by_alpha)
            texels.weight[i] = alpha * number(1.0F / 255);
        if (cuts_out) {
            texels.weight[i] = hn::IfThenZeroElse(is_hole, number(1));
            texels.hole = texels.hole | choose(is_hole, whole(std::int32_t{1} << i), whole(0));
        }
    }
}

struct Output {
    std::byte* blocks;
    std::size_t words_of_block;
};

HWY_INLINE void write(const Words& words, std::size_t count, const Output& output) {
    store_words(words.colors, count, output.words_of_block, 0, output.blocks);
    store_words(words.indices, count, output.words_of_block, 1, output.blocks);
}

HWY_INLINE Words choose_words(Where where, const Words& yes, const Words& no) {
    return {choose(where, yes.colors, no.colors), choose(where, yes.indices, no.indices)};
}

enum class Kind { by_order, with_cut_out, four_only };

template <Kind kind>
void encode_group(const std::byte* bytes, std::size_t count, const ColorSettings& settings,
                  const Output& output) {
    ColorTexels texels;
    load_texels(bytes, count, settings, kind == Kind::with_cut_out, texels);
    const Effort effort = effort_of(settings.effort);
    Order order;
    if (effort.border_rounds != by_range)
        put_in_order(texels, order);
    const Where has_hole = hn::RebindMask(Floats(), texels.hole != whole(0));
    ColorEnds four = find_ends<Form::four>(texels, order, effort);
    try_solid(texels, four);
    Words words = words_of_four(texels, four, kind != Kind::four_only);
    F error = four.error;
    if constexpr (kind == Kind::with_cut_out)
        error = choose(has_hole, number(never), error);
    const bool needs_three = kind == Kind::with_cut_out && !nowhere(has_hole);
    if (kind != Kind::four_only && (effort.tries_three || needs_three)) {
        const ColorEnds three = find_ends<Form::three>(texels, order, effort);
        Where better = three.error < error;
        if (!effort.tries_three)  // only where it has to be, whoever shares the vector
            better = both(better, has_hole);
        words = choose_words(better, words_of_three<Form::three>(texels, three), words);
        keep(better, three.error, error);
    }
    if (kind == Kind::by_order && effort.tries_black) {
        const ColorEnds black = find_ends_with_black(texels, effort);
        const Where better = black.error < error;
        if (!nowhere(better))
            words =
                choose_words(better, words_of_three<Form::three_with_hole>(texels, black), words);
    }
    write(words, count, output);
}

template <Kind kind>
HWY_INLINE void encode_all(const std::byte* texels, std::size_t count,
                           const ColorSettings& settings, Output output) {
    for (std::size_t at = 0; at < count; at += lanes()) {
        encode_group<kind>(texels + at * 4 * texels_of_block, HWY_MIN(lanes(), count - at),
                           settings, output);
        output.blocks += lanes() * output.words_of_block * 4;
    }
}

void encode_by_order(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                     std::byte* blocks) {
    encode_all<Kind::by_order>(texels, count, settings, {blocks, 2});
}

void encode_with_cut_out(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                         std::byte* blocks) {
    encode_all<Kind::with_cut_out>(texels, count, settings, {blocks, 2});
}

void encode_four_only(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                      std::byte* blocks) {
    encode_all<Kind::four_only>(texels, count, settings, {blocks + 8, 4});
}

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::bc {

HWY_EXPORT(encode_by_order);
HWY_EXPORT(encode_with_cut_out);
HWY_EXPORT(encode_four_only);

void encode_bc1(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode_by_order)(texels, count, settings, blocks);
}

void encode_bc1a(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                 std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode_with_cut_out)(texels, count, settings, blocks);
}

void encode_bc3_color(const std::byte* texels, std::size_t count, const ColorSettings& settings,
                      std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode_four_only)(texels, count, settings, blocks);
}

}  // namespace yl::bc
#endif
