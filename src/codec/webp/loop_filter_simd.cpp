// The loop filter in vectors: sixteen segments of an edge at once, or eight of both differences.
#include "codec/webp/loop_filter.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "codec/webp/loop_filter_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::webp::HWY_NAMESPACE {

#if HWY_TARGET == HWY_SCALAR

void filter(Planes& planes, std::uint32_t column, std::uint32_t row, const FilterStrength& strength,
            bool is_simple) {
    filter_edges_plain(planes, column, row, strength, is_simple);
}

#else

namespace hn = hwy::HWY_NAMESPACE;

using D = hn::FixedTag<std::uint8_t, 16>;
using Half = hn::FixedTag<std::uint8_t, 8>;
using Signed = hn::FixedTag<std::int8_t, 16>;
using V = hn::Vec<D>;
using S = hn::Vec<Signed>;

/// Where an edge begins in one plane, and in another one for its second half of samples.
struct Edge {
    std::uint8_t *first, *second;
    std::ptrdiff_t stride;
};

/// Samples across the edge, from the fourth before it to the fourth behind it.
struct Samples {
    V of[8];
};

HWY_INLINE V both(const std::uint8_t* first, const std::uint8_t* second) {
    return hn::Combine(D(), hn::LoadU(Half(), second), hn::LoadU(Half(), first));
}
HWY_INLINE void store_both(V samples, std::uint8_t* first, std::uint8_t* second) {
    hn::StoreU(hn::LowerHalf(Half(), samples), Half(), first);
    hn::StoreU(hn::UpperHalf(Half(), samples), Half(), second);
}

/// Moves the highest bit of (vector, byte) to the lowest place: bytes of eight vectors.
HWY_INLINE Samples rotated(const Samples& in) {
    Samples out;
    for (int i = 0; i < 4; ++i) {
        out.of[2 * i] = hn::InterleaveLower(D(), in.of[i], in.of[i + 4]);
        out.of[2 * i + 1] = hn::InterleaveUpper(D(), in.of[i], in.of[i + 4]);
    }
    return out;
}

/// Across a level edge.
HWY_INLINE Samples load_rows(const Edge& edge) {
    Samples samples;
    for (int i = 0; i < 8; ++i)
        samples.of[i] =
            both(edge.first + (i - 4) * edge.stride, edge.second + (i - 4) * edge.stride);
    return samples;
}
HWY_INLINE void store_rows(const Samples& samples, const Edge& edge, int reach) {
    for (int i = 4 - reach; i < 4 + reach; ++i)
        store_both(samples.of[i], edge.first + (i - 4) * edge.stride,
                   edge.second + (i - 4) * edge.stride);
}

/// Across an upright edge: rows are exchanged with columns.
HWY_INLINE Samples load_columns(const Edge& edge) {
    Samples rows;
    for (int i = 0; i < 8; ++i) {
        const std::uint8_t* begin = i < 4 ? edge.first : edge.second;
        const std::uint8_t* row = begin - 4 + i % 4 * 2 * edge.stride;
        rows.of[i] = both(row, row + edge.stride);
    }
    return rotated(rotated(rotated(rotated(rows))));
}
HWY_INLINE void store_columns(const Samples& samples, const Edge& edge) {
    const Samples rows = rotated(rotated(rotated(samples)));
    for (int i = 0; i < 8; ++i) {
        std::uint8_t* begin = i < 4 ? edge.first : edge.second;
        std::uint8_t* row = begin - 4 + i % 4 * 2 * edge.stride;
        store_both(rows.of[i], row, row + edge.stride);
    }
}

HWY_INLINE S to_signed(V samples) {
    return hn::BitCast(Signed(), hn::Xor(samples, hn::Set(D(), std::uint8_t{0x80})));
}
HWY_INLINE V to_samples(S values) {
    return hn::Xor(hn::BitCast(D(), values), hn::Set(D(), std::uint8_t{0x80}));
}
HWY_INLINE S number(int value) {
    return hn::Set(Signed(), static_cast<std::int8_t>(value));
}

HWY_INLINE V difference(V a, V b) {
    return hn::Or(hn::SaturatedSub(a, b), hn::SaturatedSub(b, a));
}

/// Not 0 where the values differ by more than the limit.
HWY_INLINE V beyond(V a, V b, V limit) {
    return hn::SaturatedSub(difference(a, b), limit);
}

HWY_INLINE V is_smooth(const Samples& s, int limit) {
    const V near = difference(s.of[3], s.of[4]);
    const V far =
        hn::And(hn::ShiftRight<1>(difference(s.of[2], s.of[5])), hn::Set(D(), std::uint8_t{0x7F}));
    const V sum = hn::SaturatedAdd(hn::SaturatedAdd(near, near), far);
    return hn::VecFromMask(
        D(), hn::Eq(hn::SaturatedSub(sum, hn::Set(D(), static_cast<std::uint8_t>(limit))),
                    hn::Zero(D())));
}

HWY_INLINE V is_smooth_inside(const Samples& s, int limit) {
    const V most = hn::Set(D(), static_cast<std::uint8_t>(limit));
    V off = hn::Zero(D());
    for (const int i : {0, 1, 2, 4, 5, 6})
        off = hn::Or(off, beyond(s.of[i], s.of[i + 1], most));
    return hn::VecFromMask(D(), hn::Eq(off, hn::Zero(D())));
}

HWY_INLINE V varies(const Samples& s, int threshold) {
    const V most = hn::Set(D(), static_cast<std::uint8_t>(threshold));
    const V off = hn::Or(beyond(s.of[2], s.of[3], most), beyond(s.of[4], s.of[5], most));
    return hn::VecFromMask(D(), hn::Ne(off, hn::Zero(D())));
}

/// Moves the two next to the edge where the mask is set, by way of the outer two where `with_outer`
/// is; gives by how much.
HWY_INLINE S adjust(Samples& s, V mask, V with_outer) {
    const S p0 = to_signed(s.of[3]), q0 = to_signed(s.of[4]);
    const S outer = hn::SaturatedSub(to_signed(s.of[2]), to_signed(s.of[5]));
    const S step = hn::SaturatedSub(q0, p0);
    S sum = hn::And(outer, hn::BitCast(Signed(), with_outer));
    for (int i = 0; i < 3; ++i)
        sum = hn::SaturatedAdd(sum, step);
    sum = hn::And(sum, hn::BitCast(Signed(), mask));
    const S a = hn::ShiftRight<3>(hn::SaturatedAdd(sum, number(4)));
    const S b = hn::ShiftRight<3>(hn::SaturatedAdd(sum, number(3)));
    s.of[4] = to_samples(hn::SaturatedSub(q0, a));
    s.of[3] = to_samples(hn::SaturatedAdd(p0, b));
    return a;
}

HWY_INLINE void smooth_simple(Samples& s, int limit) {
    adjust(s, is_smooth(s, limit), hn::Set(D(), std::uint8_t{0xFF}));
}

HWY_INLINE void smooth_inner(Samples& s, int limit, const FilterStrength& strength) {
    const V mask = hn::And(is_smooth(s, limit), is_smooth_inside(s, strength.interior));
    const V high = varies(s, strength.high_variance);
    const S p1 = to_signed(s.of[2]), q1 = to_signed(s.of[5]);
    const S step = hn::ShiftRight<1>(hn::Add(adjust(s, mask, high), number(1)));
    const S a = hn::AndNot(hn::BitCast(Signed(), high), step);
    s.of[5] = to_samples(hn::SaturatedSub(q1, a));
    s.of[2] = to_samples(hn::SaturatedAdd(p1, a));
}

/// (9 n step + 63) / 128
HWY_INLINE S part_of(S step, int n) {
    const hn::FixedTag<std::int16_t, 8> wide;
    const auto scaled = [&](auto half) {
        const auto product =
            hn::Mul(hn::PromoteTo(wide, half), hn::Set(wide, static_cast<std::int16_t>(9 * n)));
        return hn::ShiftRight<7>(hn::Add(product, hn::Set(wide, std::int16_t{63})));
    };
    const hn::FixedTag<std::int8_t, 8> narrow;
    return hn::Combine(Signed(), hn::DemoteTo(narrow, scaled(hn::UpperHalf(narrow, step))),
                       hn::DemoteTo(narrow, scaled(hn::LowerHalf(narrow, step))));
}

HWY_INLINE void smooth_outer(Samples& s, int limit, const FilterStrength& strength) {
    const V mask = hn::And(is_smooth(s, limit), is_smooth_inside(s, strength.interior));
    const V high = varies(s, strength.high_variance);
    const S step = hn::SaturatedSub(to_signed(s.of[4]), to_signed(s.of[3]));
    S sum = hn::SaturatedSub(to_signed(s.of[2]), to_signed(s.of[5]));
    for (int i = 0; i < 3; ++i)
        sum = hn::SaturatedAdd(sum, step);
    sum = hn::And(sum, hn::BitCast(Signed(), hn::AndNot(high, mask)));
    adjust(s, hn::And(mask, high), hn::Set(D(), std::uint8_t{0xFF}));
    for (int i = 0; i < 3; ++i) {
        const S a = part_of(sum, 3 - i);
        s.of[4 + i] = to_samples(hn::SaturatedSub(to_signed(s.of[4 + i]), a));
        s.of[3 - i] = to_samples(hn::SaturatedAdd(to_signed(s.of[3 - i]), a));
    }
}

/// The edges of a square of 16 (`second` lies eight further), or of two of 8, in their order.
template <class Outer, class Inner>
HWY_INLINE void each_edge(std::uint8_t* first, std::uint8_t* second, std::ptrdiff_t stride,
                          int size, std::uint32_t column, std::uint32_t row, bool has_inner,
                          Outer&& outer, Inner&& inner) {
    const bool is_one = second == nullptr;
    const auto upright = [&](int x, auto&& smooth) {
        std::uint8_t* begin = first + x;
        const Edge edge{begin, is_one ? begin + 8 * stride : second + x, stride};
        Samples samples = load_columns(edge);
        smooth(samples);
        store_columns(samples, edge);
    };
    const auto level = [&](int y, int reach, auto&& smooth) {
        std::uint8_t* begin = first + y * stride;
        const Edge edge{begin, is_one ? begin + 8 : second + y * stride, stride};
        Samples samples = load_rows(edge);
        smooth(samples);
        store_rows(samples, edge, reach);
    };
    if (column > 0)
        upright(0, outer);
    for (int x = 4; has_inner && x < size; x += 4)
        upright(x, inner);
    if (row > 0)
        level(0, 3, outer);
    for (int y = 4; has_inner && y < size; y += 4)
        level(y, 2, inner);
}

void filter(Planes& planes, std::uint32_t column, std::uint32_t row, const FilterStrength& strength,
            bool is_simple) {
    const auto corner = [&](Plane& plane, std::size_t size) {
        return plane.row(row * size) + column * size;
    };
    const int outer = outer_limit(strength), inner = inner_limit(strength);
    const auto luma_stride = static_cast<std::ptrdiff_t>(planes.y.stride);
    if (is_simple)
        return each_edge(
            corner(planes.y, 16), nullptr, luma_stride, 16, column, row, strength.has_inner_edges,
            [&](Samples& samples) { smooth_simple(samples, outer); },
            [&](Samples& samples) { smooth_simple(samples, inner); });
    const auto smooth_border = [&](Samples& samples) { smooth_outer(samples, outer, strength); };
    const auto smooth_within = [&](Samples& samples) { smooth_inner(samples, inner, strength); };
    each_edge(corner(planes.y, 16), nullptr, luma_stride, 16, column, row, strength.has_inner_edges,
              smooth_border, smooth_within);
    each_edge(corner(planes.u, 8), corner(planes.v, 8),
              static_cast<std::ptrdiff_t>(planes.u.stride), 8, column, row,
              strength.has_inner_edges, smooth_border, smooth_within);
}

#endif

}  // namespace yl::webp::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::webp {

HWY_EXPORT(filter);

void filter_edges(Planes& planes, std::uint32_t column, std::uint32_t row, FilterStrength strength,
                  bool is_simple) {
    HWY_DYNAMIC_DISPATCH(filter)(planes, column, row, strength, is_simple);
}

}  // namespace yl::webp
#endif
