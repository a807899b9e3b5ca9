#include "resample/rows_simd.hpp"

#include <algorithm>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/rows_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

#if HWY_TARGET != HWY_SCALAR

using Wide = hn::ScalableTag<float>;
using Pixel = hn::FixedTag<float, 4>;

/// Each pixel's alpha in all four places.
HWY_INLINE hn::Vec<Wide> alphas(hn::Vec<Wide> pixels) {
    return hn::Broadcast<3>(pixels);
}

HWY_INLINE hn::Mask<Wide> alpha_places() {
    const hn::RebindToSigned<Wide> ints;
    const auto place = hn::And(hn::Iota(ints, 0), hn::Set(ints, 3));
    return hn::RebindMask(Wide(), hn::Eq(place, hn::Set(ints, 3)));
}

void weigh(float* rgba, std::size_t floats) {
    const std::size_t n = hn::Lanes(Wide());
    const auto is_alpha = alpha_places();
    const auto min = hn::Set(Wide(), min_weight);
    std::size_t i = 0;
    for (; i + n <= floats; i += n) {
        const auto pixels = hn::LoadU(Wide(), rgba + i);
        const auto weight = hn::Add(alphas(pixels), min);
        hn::StoreU(hn::IfThenElse(is_alpha, weight, hn::Mul(pixels, weight)), Wide(), rgba + i);
    }
    weigh_by_alpha_plain(rgba + i, (floats - i) / 4);
}

void unweigh(const float* rgba, float* plain, std::size_t floats) {
    const std::size_t n = hn::Lanes(Wide());
    const auto is_alpha = alpha_places();
    const auto min = hn::Set(Wide(), min_weight);
    std::size_t i = 0;
    for (; i + n <= floats; i += n) {
        const auto pixels = hn::LoadU(Wide(), rgba + i);
        const auto divisor = hn::Max(alphas(pixels), hn::Set(Wide(), min_divisor));
        // Most texels are opaque: dividing is slow, and dividing by 1 changes nothing.
        const bool is_opaque = hn::AllTrue(Wide(), hn::Eq(divisor, hn::Set(Wide(), 1.0F)));
        const auto color = is_opaque ? pixels : hn::Div(pixels, divisor);
        const auto alpha = hn::IfThenElse(hn::Lt(pixels, hn::Set(Wide(), little_weight)),
                                          hn::Sub(pixels, min), pixels);
        hn::StoreU(hn::IfThenElse(is_alpha, alpha, color), Wide(), plain + i);
    }
    undo_weighing_plain(rgba + i, plain + i, (floats - i) / 4);
}

using Pixels = hn::CappedTag<float, 16>;

// Of twice as many pixels as fit into a vector, every other one.

HWY_INLINE hn::Vec<Pixels> even_pixels(hn::Vec<Pixels> a, hn::Vec<Pixels> b) {
#if HWY_TARGET <= HWY_AVX3
    return hn::Vec<Pixels>{_mm512_shuffle_f32x4(a.raw, b.raw, 0x88)};
#else
    return hn::MaxLanes(Pixels()) == 4 ? a : hn::ConcatLowerLower(Pixels(), b, a);
#endif
}

HWY_INLINE hn::Vec<Pixels> odd_pixels(hn::Vec<Pixels> a, hn::Vec<Pixels> b) {
#if HWY_TARGET <= HWY_AVX3
    return hn::Vec<Pixels>{_mm512_shuffle_f32x4(a.raw, b.raw, 0xDD)};
#else
    return hn::MaxLanes(Pixels()) == 4 ? b : hn::ConcatUpperUpper(Pixels(), b, a);
#endif
}

/// A vector of target pixels that have the same weights; `source` is where the first one's begin.
HWY_INLINE hn::Vec<Pixels> blend_alike(const float* source, const float* weights,
                                       std::uint32_t taps) {
    const Pixels d;
    const std::size_t n = hn::Lanes(d);
    auto sum = hn::Zero(d);
    for (std::uint32_t tap = 0; tap < taps; tap += 2) {
        const auto a = hn::LoadU(d, source + 4 * tap), b = hn::LoadU(d, source + 4 * tap + n);
        const auto term = hn::Mul(even_pixels(a, b), hn::Set(d, weights[tap]));
        sum = tap == 0 ? term : hn::Add(sum, term);
        if (tap + 1 < taps)
            sum = hn::Add(sum, hn::Mul(odd_pixels(a, b), hn::Set(d, weights[tap + 1])));
    }
    return sum;
}

void blend_one_by_one(const AxisWeights& weights, const float* source, float* target,
                      std::uint32_t begin, std::uint32_t end) {
    const Pixel d;
    for (std::uint32_t x = begin; x < end; ++x) {
        const float* pixel = source + std::ptrdiff_t{weights.first[x]} * 4;
        const float* weight = weights.of(x);
        auto sum = hn::Mul(hn::LoadU(d, pixel), hn::Set(d, weight[0]));
        for (std::uint32_t tap = 1; tap < weights.taps; ++tap)
            sum = hn::Add(sum, hn::Mul(hn::LoadU(d, pixel + 4 * tap), hn::Set(d, weight[tap])));
        hn::StoreU(sum, d, target + std::size_t{x} * 4);
    }
}

void across(const AxisWeights& weights, const float* source, float* target) {
    const Pixels d;
    const auto together = static_cast<std::uint32_t>(hn::Lanes(d) / 4);
    std::uint32_t x = weights.alike_begin;
    blend_one_by_one(weights, source, target, 0, x);
    const std::int64_t end = std::int64_t{weights.source} + weights.behind;
    // An odd number of taps reads one pixel more than it needs.
    const std::int64_t reach = 2 * std::int64_t{together} + (weights.taps - 1) / 2 * 2;
    for (; x + together <= weights.alike_end && weights.first[x] + reach <= end; x += together)
        hn::StoreU(
            blend_alike(source + std::ptrdiff_t{weights.first[x]} * 4, weights.of(x), weights.taps),
            d, target + std::size_t{x} * 4);
    blend_one_by_one(weights, source, target, x, weights.size());
}

void rows_together(std::span<const float* const> rows, const float* weights, float* sum,
                   std::size_t count) {
    const Wide d;
    const std::size_t n = hn::Lanes(d);
    std::size_t i = 0;
    for (; i + n <= count; i += n) {
        auto total = hn::Mul(hn::LoadU(d, rows[0] + i), hn::Set(d, weights[0]));
        for (std::size_t tap = 1; tap < rows.size(); ++tap)
            total = hn::Add(total, hn::Mul(hn::LoadU(d, rows[tap] + i), hn::Set(d, weights[tap])));
        hn::StoreU(total, d, sum + i);
    }
    for (; i < count; ++i) {
        float total = rows[0][i] * weights[0];
        for (std::size_t tap = 1; tap < rows.size(); ++tap)
            total += rows[tap][i] * weights[tap];
        sum[i] = total;
    }
}

/// Two vectors at a time, so that looking up where taps lie is shared; as many pairs of taps as
/// `known_pairs`, or any number for 0. Gives how many floats are done.
template <std::size_t known_pairs>
std::size_t symmetric_of(const float* const* taps, std::size_t all_pairs, const float* weights,
                         float* sum, std::size_t count) {
    const Wide d;
    const std::size_t n = hn::Lanes(d);
    const std::size_t pairs = known_pairs != 0 ? known_pairs : all_pairs;
    const std::size_t last = 2 * pairs - 1;
    std::size_t i = 0;
    for (; i + 2 * n <= count; i += 2 * n) {
        const auto both = [&](std::size_t t, std::size_t at) {
            return hn::Mul(hn::Add(hn::LoadU(d, taps[t] + at), hn::LoadU(d, taps[last - t] + at)),
                           hn::Set(d, weights[t]));
        };
        auto left = both(0, i), right = both(0, i + n);
        for (std::size_t t = 1; t < pairs; ++t) {
            left = hn::Add(left, both(t, i));
            right = hn::Add(right, both(t, i + n));
        }
        hn::StoreU(left, d, sum + i);
        hn::StoreU(right, d, sum + i + n);
    }
    return i;
}

void symmetric(std::span<const float* const> taps, const float* weights, float* sum,
               std::size_t count) {
    const std::size_t pairs = taps.size() / 2;
    const std::size_t done = pairs == 6 ? symmetric_of<6>(taps.data(), pairs, weights, sum, count)
                             : pairs == 4
                                 ? symmetric_of<4>(taps.data(), pairs, weights, sum, count)
                                 : symmetric_of<0>(taps.data(), pairs, weights, sum, count);
    if (done < count)
        blend_symmetric_plain(taps, weights, sum, count, done);
}

void pair_extremes(const float* a, const float* b, float* min, float* max, std::size_t count) {
    const Wide d;
    const std::size_t n = hn::Lanes(d);
    std::size_t i = 0;
    for (; i + n <= count; i += n) {
        const auto p = hn::LoadU(d, a + i), q = hn::LoadU(d, b + i);
        const auto is_less = hn::Lt(q, p);
        hn::StoreU(hn::IfThenElse(is_less, q, p), d, min + i);
        hn::StoreU(hn::IfThenElse(is_less, p, q), d, max + i);
    }
    extremes_of_pairs_plain(a + i, b + i, min + i, max + i, count - i);
}

void pair_limits(float* row, const std::array<const float*, 2>& min,
                 const std::array<const float*, 2>& max, std::size_t count) {
    const Wide d;
    const std::size_t n = hn::Lanes(d);
    const auto smaller = [](auto p, auto q) { return hn::IfThenElse(hn::Lt(q, p), q, p); };
    const auto larger = [](auto p, auto q) { return hn::IfThenElse(hn::Lt(p, q), q, p); };
    std::size_t i = 0;
    for (; i + n <= count; i += n) {
        const auto low = smaller(hn::LoadU(d, min[0] + i), hn::LoadU(d, min[1] + i));
        const auto high = larger(hn::LoadU(d, max[0] + i), hn::LoadU(d, max[1] + i));
        hn::StoreU(smaller(larger(hn::LoadU(d, row + i), low), high), d, row + i);
    }
    limit_to_pairs_plain(row + i, {min[0] + i, min[1] + i}, {max[0] + i, max[1] + i}, count - i);
}

void split(const float* row, float* even, float* odd, std::size_t width) {
    const Pixel d;
    for (std::size_t x = 0; x < width; x += 2) {
        hn::StoreU(hn::LoadU(d, row + 4 * x), d, even + 2 * x);
        hn::StoreU(hn::LoadU(d, row + 4 * x + 4), d, odd + 2 * x);
    }
}

#else

void symmetric(std::span<const float* const> taps, const float* weights, float* sum,
               std::size_t count) {
    blend_symmetric_plain(taps, weights, sum, count);
}
void pair_extremes(const float* a, const float* b, float* min, float* max, std::size_t count) {
    extremes_of_pairs_plain(a, b, min, max, count);
}
void pair_limits(float* row, const std::array<const float*, 2>& min,
                 const std::array<const float*, 2>& max, std::size_t count) {
    limit_to_pairs_plain(row, min, max, count);
}
void split(const float* row, float* even, float* odd, std::size_t width) {
    for (std::size_t x = 0; x < width; x += 2) {
        std::copy_n(row + 4 * x, 4, even + 2 * x);
        std::copy_n(row + 4 * x + 4, 4, odd + 2 * x);
    }
}

void weigh(float* rgba, std::size_t floats) {
    weigh_by_alpha_plain(rgba, floats / 4);
}
void unweigh(const float* rgba, float* plain, std::size_t floats) {
    undo_weighing_plain(rgba, plain, floats / 4);
}
void across(const AxisWeights& weights, const float* source, float* target) {
    blend_across_plain(weights, source, target);
}
void rows_together(std::span<const float* const> rows, const float* weights, float* sum,
                   std::size_t count) {
    blend_rows_plain(rows, weights, sum, count);
}

#endif

}  // namespace yl::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl {

HWY_EXPORT(weigh);
HWY_EXPORT(unweigh);
HWY_EXPORT(across);
HWY_EXPORT(rows_together);
HWY_EXPORT(symmetric);
HWY_EXPORT(pair_extremes);
HWY_EXPORT(pair_limits);
HWY_EXPORT(split);

void blend_symmetric(std::span<const float* const> taps, const float* weights, float* sum,
                     std::size_t count) {
    HWY_DYNAMIC_DISPATCH(symmetric)(taps, weights, sum, count);
}

void extremes_of_pairs(const float* a, const float* b, float* min, float* max, std::size_t count) {
    HWY_DYNAMIC_DISPATCH(pair_extremes)(a, b, min, max, count);
}

void limit_to_pairs(float* row, const std::array<const float*, 2>& min,
                    const std::array<const float*, 2>& max, std::size_t count) {
    HWY_DYNAMIC_DISPATCH(pair_limits)(row, min, max, count);
}

void split_pixels(const float* row, float* even, float* odd, std::size_t width) {
    HWY_DYNAMIC_DISPATCH(split)(row, even, odd, width);
}

void blend_symmetric_plain(std::span<const float* const> taps, const float* weights, float* sum,
                           std::size_t count, std::size_t begin) {
    const std::size_t last = taps.size() - 1;
    for (std::size_t i = begin; i < count; ++i) {
        float total = (taps[0][i] + taps[last][i]) * weights[0];
        for (std::size_t t = 1; t < taps.size() / 2; ++t)
            total += (taps[t][i] + taps[last - t][i]) * weights[t];
        sum[i] = total;
    }
}

void extremes_of_pairs_plain(const float* a, const float* b, float* min, float* max,
                             std::size_t count) {
    for (std::size_t i = 0; i < count; ++i) {
        const bool is_less = b[i] < a[i];
        min[i] = is_less ? b[i] : a[i];
        max[i] = is_less ? a[i] : b[i];
    }
}

void limit_to_pairs_plain(float* row, const std::array<const float*, 2>& min,
                          const std::array<const float*, 2>& max, std::size_t count) {
    for (std::size_t i = 0; i < count; ++i) {
        const float low = std::min(min[0][i], min[1][i]);
        const float high = std::max(max[0][i], max[1][i]);
        row[i] = std::min(std::max(row[i], low), high);
    }
}

void weigh_by_alpha(float* rgba, std::size_t count) {
    HWY_DYNAMIC_DISPATCH(weigh)(rgba, 4 * count);
}

void undo_weighing(const float* rgba, float* plain, std::size_t count) {
    HWY_DYNAMIC_DISPATCH(unweigh)(rgba, plain, 4 * count);
}

void blend_across(const AxisWeights& weights, const float* source, float* target) {
    HWY_DYNAMIC_DISPATCH(across)(weights, source, target);
}

void blend_rows(std::span<const float* const> rows, const float* weights, float* sum,
                std::size_t count) {
    HWY_DYNAMIC_DISPATCH(rows_together)(rows, weights, sum, count);
}

void weigh_by_alpha_plain(float* rgba, std::size_t count) {
    for (float* pixel = rgba; pixel != rgba + 4 * count; pixel += 4) {
        pixel[3] += min_weight;
        for (int c = 0; c < 3; ++c)
            pixel[c] *= pixel[3];
    }
}

void undo_weighing_plain(const float* rgba, float* plain, std::size_t count) {
    for (const float* pixel = rgba; pixel != rgba + 4 * count; pixel += 4, plain += 4) {
        const float divisor = std::max(pixel[3], min_divisor);
        const float alpha = pixel[3] < little_weight ? pixel[3] - min_weight : pixel[3];
        for (int c = 0; c < 3; ++c)
            plain[c] = pixel[c] / divisor;
        plain[3] = alpha;
    }
}

void blend_across_plain(const AxisWeights& weights, const float* source, float* target) {
    for (std::uint32_t x = 0; x < weights.size(); ++x, target += 4) {
        const float* pixel = source + std::ptrdiff_t{weights.first[x]} * 4;
        for (std::size_t c = 0; c < 4; ++c) {
            float sum = pixel[c] * weights.of(x)[0];
            for (std::size_t tap = 1; tap < weights.taps; ++tap)
                sum += pixel[4 * tap + c] * weights.of(x)[tap];
            target[c] = sum;
        }
    }
}

void blend_rows_plain(std::span<const float* const> rows, const float* weights, float* sum,
                      std::size_t count) {
    for (std::size_t i = 0; i < count; ++i) {
        float total = rows[0][i] * weights[0];
        for (std::size_t tap = 1; tap < rows.size(); ++tap)
            total += rows[tap][i] * weights[tap];
        sum[i] = total;
    }
}

}  // namespace yl
#endif
