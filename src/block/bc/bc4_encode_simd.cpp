// BC4: the two ends of one channel, found by least squares and a search around.
#include "base/bytes.hpp"
#include "base/simd_inline.hpp"
#include "block/bc/encode.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "block/bc/bc4_encode_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#include "block/lanes-inl.hpp"

HWY_BEFORE_NAMESPACE();
namespace yl::bc::HWY_NAMESPACE {

using namespace simd::HWY_NAMESPACE;

/// One channel of the lanes' blocks.
struct ChannelTexels {
    F value[texels_of_block];
    F weight[texels_of_block];
    bool has_weights;
    F min, max;                  // of the whole range
    F middle;                    // what values are counted from in sums
    F inner_sum, inner_squares;  // and the sums of all of them
};

/// Two ends with `parts` steps between them; with 5, the ends of the whole range are values too.
struct Ends {
    F from, to, error;
};

template <int parts>
YL_SIMD_INLINE F nearest_step(F value, F from, F scale) {
    return rounded(clamped((value - from) * scale, zero(), set(parts)));
}

YL_SIMD_INLINE F distance_to_range_ends(const ChannelTexels& texels, F value) {
    return hn::Min(squared(value - texels.min), squared(value - texels.max));
}

/// The error of these ends.
template <int parts>
YL_SIMD_INLINE F measure(const ChannelTexels& texels, F from, F to) {
    const F scale = set(parts) * inverse_or_zero(to - from);
    const F width = (to - from) * set(1.0F / parts);
    F error = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F value = texels.value[i];
        F distance = squared(from + nearest_step<parts>(value, from, scale) * width - value);
        if constexpr (parts == 5)
            distance = hn::Min(distance, distance_to_range_ends(texels, value));
        error = error + (texels.has_weights ? distance * texels.weight[i] : distance);
    }
    return error;
}

/// Whole ends within the range, the greater one last, and apart if there are to be seven parts.
template <int parts>
YL_SIMD_INLINE void make_storable(const ChannelTexels& texels, F& from, F& to) {
    const F low = hn::Min(from, to) - texels.min;
    const F high = hn::Max(from, to) - texels.min;
    const F span = texels.max - texels.min;
    from = rounded(clamped(low, zero(), span)) + texels.min;
    to = rounded(clamped(high, zero(), span)) + texels.min;
    if constexpr (parts == 7) {
        const Mask alike = from == to;
        const Mask at_top = and_mask(alike, to == texels.max);
        from = if_then_else(at_top, from - set(1.0F), from);
        to = if_then_else(hn::AndNot(at_top, alike), to + set(1.0F), to);
    }
}

/// The best ends for the steps that the texels choose between the given ones (least squares), and
/// their error with those steps, which is no less than their real one.
template <int parts, bool has_weights>
YL_SIMD_INLINE Ends solved_from(const ChannelTexels& texels, F from, F to) {
    const F scale = set(parts) * inverse_or_zero(to - from);
    const F width = (to - from) * set(1.0F / parts);
    constexpr bool counts_all = parts == 7 && !has_weights;  // each texel once
    F weights = counts_all ? set(texels_of_block) : zero();
    F steps = zero(), squares = zero(), values = zero(), products = zero(), constant = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F value = texels.value[i];
        const F inner = value - texels.middle;
        const F step = nearest_step<parts>(value, from, scale);
        if constexpr (counts_all) {
            steps = steps + step;
            squares = squares + step * step;
            products = products + step * inner;
            continue;
        }
        F weight = texels.weight[i];
        if constexpr (parts == 5) {
            const F end = distance_to_range_ends(texels, value);
            const Mask is_end = end < squared(from + step * width - value);
            constant = constant + weight * if_then_else(is_end, end, squared(inner));
            weight = hn::IfThenZeroElse(is_end, weight);
        }
        const F weighted = weight * step;
        weights = weights + weight;
        steps = steps + weighted;
        squares = squares + weighted * step;
        values = values + weight * inner;
        products = products + weighted * inner;
    }
    if constexpr (parts == 7)
        constant = texels.inner_squares;
    if constexpr (counts_all)
        values = texels.inner_sum;
    const F determinant = weights * squares - steps * steps;
    const F inverse = inverse_or_zero(determinant);
    const F slope = (weights * products - steps * values) * inverse;
    const F base = (squares * values - steps * products) * inverse + texels.middle;
    const Mask solvable = determinant > set(1e-3F);
    Ends ends = {if_then_else(solvable, base, from),
                 if_then_else(solvable, base + slope * set(parts), to), zero()};
    make_storable<parts>(texels, ends.from, ends.to);
    const F a = ends.from - texels.middle;
    const F d = (ends.to - ends.from) * set(1.0F / parts);
    ends.error = a * (a * weights + set(2) * (d * steps - values)) +
                 d * (d * squares - set(2) * products) + constant;
    return ends;
}

YL_SIMD_INLINE void keep_better(const Ends& candidate, Ends& best) {
    const Mask better = candidate.error < best.error;
    update_where(better, candidate.from, best.from);
    update_where(better, candidate.to, best.to);
    update_where(better, candidate.error, best.error);
}

/// Steps of the ends around the best ones, until nothing is gained or `rounds` are over.
template <int parts>
YL_SIMD_INLINE void search_around(const ChannelTexels& texels, int rounds, int reach, Ends& best) {
    for (int round = 0; round < rounds; ++round) {
        const Ends before = best;
        for (int a = -reach; a <= reach; ++a)
            for (int b = -reach; b <= reach; ++b) {
                Ends ends = {before.from + set(static_cast<float>(a)),
                             before.to + set(static_cast<float>(b)), zero()};
                make_storable<parts>(texels, ends.from, ends.to);
                ends.error = measure<parts>(texels, ends.from, ends.to);
                keep_better(ends, best);
            }
        if (all_false(best.error < before.error))
            return;
    }
}

struct Effort {
    int starts;       // widths that are tried for each end
    int settlements;  // further least squares from the best so far
    int rounds, reach;
    bool always_five;
};

YL_SIMD_INLINE Effort effort_of(int effort) {
    constexpr Effort efforts[] = {{1, 1, 0, 0, false}, {1, 2, 0, 0, false}, {2, 1, 0, 0, false},
                                  {3, 0, 0, 0, false}, {3, 1, 0, 0, false}, {3, 1, 0, 0, false},
                                  {4, 2, 1, 1, true},  {5, 2, 2, 1, true},  {6, 2, 4, 1, true},
                                  {6, 2, 8, 2, true},  {8, 2, 8, 3, true}};
    return efforts[effort];
}

template <int parts>
YL_SIMD_INLINE Ends solved_from(const ChannelTexels& texels, F from, F to) {
    return texels.has_weights ? solved_from<parts, true>(texels, from, to)
                              : solved_from<parts, false>(texels, from, to);
}

/// From several widths: the best ends lie now within the extremes, now beyond them.
template <int parts>
YL_SIMD_INLINE Ends find_ends(const ChannelTexels& texels, const Effort& effort, F low, F high) {
    const F unit = (high - low) * set(0.5F / parts);
    const int first = effort.starts > 2 ? -1 : 0;
    Ends best = {low, high, set(1e30F)};
    for (int a = first; a < first + effort.starts; ++a)
        for (int b = first; b < first + effort.starts; ++b)
            keep_better(solved_from<parts>(texels, low + unit * set(static_cast<float>(a)),
                                           high - unit * set(static_cast<float>(b))),
                        best);
    for (int i = 0; i < effort.settlements; ++i)
        keep_better(solved_from<parts>(texels, best.from, best.to), best);
    best.error = measure<parts>(texels, best.from, best.to);
    search_around<parts>(texels, effort.rounds, effort.reach, best);
    return best;
}

/// Indices count from the greater end when there are seven parts: 0, 2 .. 7, 1.
YL_SIMD_INLINE I index_of_seven(F value, F from, F scale) {
    const I down = (set_int(8) - to_int(nearest_step<7>(value, from, scale))) & set_int(7);
    const I swapped = down ^ set_int(1);
    return hn::IfThenElse(down < set_int(2), swapped, down);
}

/// From the lesser end when there are five: 0, 2 .. 5, 1, and then the ends of the whole range.
YL_SIMD_INLINE I index_of_five(const ChannelTexels& texels, F value, F from, F scale, F width) {
    const F step = nearest_step<5>(value, from, scale);
    const F distance = squared(from + step * width - value);
    F index =
        if_then_else(step == zero(), zero(), if_then_else(step == set(5), set(1), step + set(1)));
    const F to_least = squared(value - texels.min);
    const F to_greatest = squared(value - texels.max);
    index = if_then_else(and_mask(to_least < distance, to_least <= to_greatest), set(6), index);
    return to_int(
        if_then_else(and_mask(to_greatest < distance, to_greatest < to_least), set(7), index));
}

/// Indices, and the ends in the order that says how many parts there are.
YL_SIMD_INLINE void write(const ChannelTexels& texels, const Ends& seven, const Ends& five,
                          std::size_t count, std::size_t words, std::byte* blocks) {
    const Mask has_five = five.error < seven.error;
    const bool any_five = !all_false(has_five);
    const F scale = set(7) * inverse_or_zero(seven.to - seven.from);
    const F scale_of_five = set(5) * inverse_or_zero(five.to - five.from);
    const F width_of_five = (five.to - five.from) * set(1.0F / 5);
    I halves[2] = {set_int(0), set_int(0)};
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F value = texels.value[i];
        I index = index_of_seven(value, seven.from, scale);
        if (any_five)
            index = if_then_else(
                has_five, index_of_five(texels, value, five.from, scale_of_five, width_of_five),
                index);
        halves[i / 8] = halves[i / 8] | hn::ShiftLeftSame(index, static_cast<int>(3 * (i % 8)));
    }
    const I first = to_int(if_then_else(has_five, five.from, seven.to)) & set_int(255);
    const I second = to_int(if_then_else(has_five, five.to, seven.from)) & set_int(255);
    store_words(first | hn::ShiftLeft<8>(second) | hn::ShiftLeft<16>(halves[0]), count, words, 0,
                blocks);
    store_words(hn::ShiftRight<16>(halves[0]) | hn::ShiftLeft<8>(halves[1]), count, words, 1,
                blocks);
}

void encode_group(const float* values, const float* weights, std::size_t count,
                  const ChannelSettings& settings, std::byte* blocks) {
    ChannelTexels texels;
    texels.min = set(settings.min);
    texels.max = set(settings.max);
    texels.has_weights = weights != nullptr;
    const I offsets = lane_offsets(count, texels_of_block);
    F low = set(1e30F), high = set(-1e30F);
    F inner_low = set(1e30F), inner_high = set(-1e30F);
    const F margin = set((settings.max - settings.min) / 64);
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F value =
            clamped(hn::GatherIndex(Floats(), values + i, offsets), texels.min, texels.max);
        texels.value[i] = value;
        texels.weight[i] =
            weights != nullptr ? hn::GatherIndex(Floats(), weights + i, offsets) : set(1);
        low = hn::Min(low, value);
        high = hn::Max(high, value);
        const Mask inner = and_mask(value > texels.min + margin, value < texels.max - margin);
        inner_low = if_then_else(inner, hn::Min(inner_low, value), inner_low);
        inner_high = if_then_else(inner, hn::Max(inner_high, value), inner_high);
    }
    texels.middle = low;
    texels.inner_sum = texels.inner_squares = zero();
    for (std::size_t i = 0; i < texels_of_block; ++i) {
        const F inner = texels.value[i] - low;
        texels.inner_sum = texels.inner_sum + inner;
        texels.inner_squares = texels.inner_squares + texels.weight[i] * squared(inner);
    }
    const Effort effort = effort_of(settings.effort);
    const Ends seven = find_ends<7>(texels, effort, low, high);
    Ends five = {low, high, set(1e30F)};
    // Four values between are worth a look above all where a texel is at an end of the whole range.
    const Mask extreme = hn::Or(low<texels.min + margin, high> texels.max - margin);
    if (effort.always_five || !all_false(extreme)) {
        const Mask has_inner = inner_low <= inner_high;
        Effort less = effort;
        if (!effort.always_five)
            less.starts = HWY_MIN(effort.starts, 2);
        five = find_ends<5>(texels, less, if_then_else(has_inner, inner_low, low),
                            if_then_else(has_inner, inner_high, low));
        if (!effort.always_five)  // the same, whoever shares the vector
            five.error = if_then_else(extreme, five.error, set(1e30F));
    }
    write(texels, seven, five, count, settings.block_words, blocks);
}

void encode(const float* values, const float* weights, std::size_t count,
            const ChannelSettings& settings, std::byte* blocks) {
    for (std::size_t at = 0; at < count; at += lanes())
        encode_group(values + at * texels_of_block,
                     weights != nullptr ? weights + at * texels_of_block : nullptr,
                     HWY_MIN(lanes(), count - at), settings,
                     blocks + at * settings.block_words * 4);
}

}  // namespace yl::bc::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::bc {

HWY_EXPORT(encode);

void encode_bc4(const float* values, const float* weights, std::size_t count,
                const ChannelSettings& settings, std::byte* blocks) {
    HWY_DYNAMIC_DISPATCH(encode)(values, weights, count, settings, blocks);
}

}  // namespace yl::bc
#endif
