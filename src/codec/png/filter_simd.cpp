// The filters whose bytes depend on the pixel to the left, a pixel at a time.
#include "codec/png/filter.hpp"

#include <cstring>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "codec/png/filter_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::png::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

#if HWY_TARGET != HWY_SCALAR

/// One pixel of `distance` bytes in the low bytes of a vector.
template <std::size_t distance>
struct Pixel {
    static constexpr std::size_t lanes = distance <= 4 ? 4 : 8;
    using D = hn::FixedTag<std::uint8_t, lanes>;
    using V = hn::Vec<D>;

    static HWY_INLINE V load(const std::byte* bytes) {
        return hn::LoadU(D(), reinterpret_cast<const std::uint8_t*>(bytes));
    }
    /// A fourth byte may be written behind three, since the filtered row begins at least one byte
    /// behind the row; two more behind six would hit bytes that are still to be read.
    static HWY_INLINE void store(V pixel, std::byte* bytes) {
        if constexpr (lanes - distance <= 1) {
            hn::StoreU(pixel, D(), reinterpret_cast<std::uint8_t*>(bytes));
        } else {
            std::uint8_t all[lanes];
            hn::StoreU(pixel, D(), all);
            std::memcpy(bytes, all, distance);
        }
    }
};

/// Gives the number of bytes done.
template <std::size_t distance>
HWY_INLINE std::size_t undo_sub(ByteSpan filtered, std::byte* row) {
    using P = Pixel<distance>;
    auto left = hn::Zero(typename P::D());
    std::size_t i = 0;
    for (; i + P::lanes <= filtered.size(); i += distance) {
        left = hn::Add(left, P::load(filtered.data() + i));
        P::store(left, row + i);
    }
    return i;
}

/// With everything complemented, the mean rounded down is the mean rounded up, which processors
/// have: what is left is one mean and one difference from pixel to pixel.
template <std::size_t distance>
HWY_INLINE std::size_t undo_average(ByteSpan filtered, const std::byte* above, std::byte* row) {
    using P = Pixel<distance>;
    auto not_left = hn::Not(hn::Zero(typename P::D()));
    std::size_t i = 0;
    for (; i + P::lanes <= filtered.size(); i += distance) {
        const auto not_above = hn::Not(P::load(above + i));
        not_left = hn::Sub(hn::AverageRound(not_left, not_above), P::load(filtered.data() + i));
        P::store(hn::Not(not_left), row + i);
    }
    return i;
}

template <std::size_t distance>
HWY_INLINE std::size_t undo_paeth(ByteSpan filtered, const std::byte* above, std::byte* row) {
    using P = Pixel<distance>;
    const hn::Rebind<std::int16_t, typename P::D> d16;
    auto left = hn::Zero(d16);
    auto above_left = hn::Zero(d16);
    std::size_t i = 0;
    for (; i + P::lanes <= filtered.size(); i += distance) {
        const auto up = hn::PromoteTo(d16, P::load(above + i));
        const auto sample = hn::PromoteTo(d16, P::load(filtered.data() + i));
        const auto across = hn::Sub(up, above_left);
        const auto down = hn::Sub(left, above_left);
        const auto to_left = hn::Abs(across);
        const auto to_up = hn::Abs(down);
        const auto to_above_left = hn::Abs(hn::Add(across, down));
        const auto min = hn::Min(hn::Min(to_left, to_up), to_above_left);
        const auto far_one = hn::IfThenElse(hn::Eq(to_up, min), up, above_left);
        const auto nearest = hn::IfThenElse(hn::Eq(to_left, min), left, far_one);
        left = hn::And(hn::Add(nearest, sample), hn::Set(d16, 255));
        above_left = up;
        P::store(hn::DemoteTo(typename P::D(), left), row + i);
    }
    return i;
}

template <std::size_t distance>
std::size_t undo_at(RowFilter filter, ByteSpan filtered, const std::byte* above, std::byte* row) {
    switch (filter) {
        case RowFilter::sub:
            return undo_sub<distance>(filtered, row);
        case RowFilter::average:
            return undo_average<distance>(filtered, above, row);
        case RowFilter::paeth:
            return undo_paeth<distance>(filtered, above, row);
        default:
            return 0;
    }
}

std::size_t undo_start(RowFilter filter, ByteSpan filtered, const std::byte* above, std::byte* row,
                       std::size_t distance) {
    switch (distance) {
        case 3:
            return undo_at<3>(filter, filtered, above, row);
        case 4:
            return undo_at<4>(filter, filtered, above, row);
        case 6:
            return undo_at<6>(filter, filtered, above, row);
        case 8:
            return undo_at<8>(filter, filtered, above, row);
        default:
            return 0;
    }
}

template <class D>
HWY_INLINE hn::Vec<D> apart(D, hn::Vec<D> a, hn::Vec<D> b) {
    return hn::Sub(hn::Max(a, b), hn::Min(a, b));
}

template <class D>
HWY_INLINE hn::Vec<D> mean(D d, hn::Vec<D> a, hn::Vec<D> b) {
    const auto odd = hn::And(hn::Xor(a, b), hn::Set(d, 1));
    return hn::Sub(hn::AverageRound(a, b), odd);
}

template <class D>
HWY_INLINE hn::Vec<D> paeth_of(D d, hn::Vec<D> left, hn::Vec<D> up, hn::Vec<D> above_left) {
    const auto to_left = apart(d, up, above_left);
    const auto to_up = apart(d, left, above_left);
    // |left + up - 2 above_left| is the sum of both distances where they point the same way, else
    // their difference. A sum that saturates is not the least of the three in any case.
    const auto up_is_ahead = hn::VecFromMask(d, hn::Eq(hn::Max(up, above_left), up));
    const auto left_is_ahead = hn::VecFromMask(d, hn::Eq(hn::Max(left, above_left), left));
    const auto opposed = hn::MaskFromVec(hn::Xor(up_is_ahead, left_is_ahead));
    const auto to_above_left =
        hn::IfThenElse(opposed, apart(d, to_left, to_up), hn::SaturatedAdd(to_left, to_up));
    const auto min = hn::Min(hn::Min(to_left, to_up), to_above_left);
    const auto far_one = hn::IfThenElse(hn::Eq(to_up, min), up, above_left);
    return hn::IfThenElse(hn::Eq(to_left, min), left, far_one);
}

/// Bytes of a row with their neighbours.
template <class D>
struct Near {
    hn::Vec<D> now, left, up, above_left;

    HWY_INLINE Near(D d, const std::byte* row, const std::byte* above, std::size_t distance)
        : now(load(d, row)),
          left(load(d, row - distance)),
          up(load(d, above)),
          above_left(load(d, above - distance)) {}

    static HWY_INLINE hn::Vec<D> load(D d, const std::byte* bytes) {
        return hn::LoadU(d, reinterpret_cast<const std::uint8_t*>(bytes));
    }

    HWY_INLINE hn::Vec<D> filtered(D d, RowFilter filter) const {
        switch (filter) {
            case RowFilter::sub:
                return hn::Sub(now, left);
            case RowFilter::up:
                return hn::Sub(now, up);
            case RowFilter::average:
                return hn::Sub(now, mean(d, left, up));
            case RowFilter::paeth:
                return hn::Sub(now, paeth_of(d, left, up, above_left));
            default:
                return now;
        }
    }
};

/// Both give the first byte that is left to do, the first pixel aside: it has no neighbour at its
/// left.
std::size_t rate_middle(ByteSpan row, const std::byte* above, std::size_t distance,
                        FilterCosts& costs) {
    const hn::ScalableTag<std::uint8_t> d;
    const hn::Repartition<std::uint64_t, decltype(d)> d64;
    auto none = hn::Zero(d64), sub = none, up = none, average = none, paeth = none;
    const auto cost = [&](const auto& near, RowFilter filter) HWY_ATTR {
        const auto bytes = near.filtered(d, filter);
        return hn::SumsOf8(hn::Min(bytes, hn::Sub(hn::Zero(d), bytes)));
    };
    std::size_t i = distance;
    for (; i + hn::Lanes(d) <= row.size(); i += hn::Lanes(d)) {
        const Near<decltype(d)> near(d, row.data() + i, above + i, distance);
        none = hn::Add(none, cost(near, RowFilter::none));
        sub = hn::Add(sub, cost(near, RowFilter::sub));
        up = hn::Add(up, cost(near, RowFilter::up));
        average = hn::Add(average, cost(near, RowFilter::average));
        paeth = hn::Add(paeth, cost(near, RowFilter::paeth));
    }
    const auto total = [&](auto sums) HWY_ATTR { return hn::GetLane(hn::SumOfLanes(d64, sums)); };
    costs[0] += total(none);
    costs[1] += total(sub);
    costs[2] += total(up);
    costs[3] += total(average);
    costs[4] += total(paeth);
    return i;
}

std::size_t apply_middle(RowFilter filter, ByteSpan row, const std::byte* above,
                         std::byte* filtered, std::size_t distance) {
    const hn::ScalableTag<std::uint8_t> d;
    std::size_t i = distance;
    for (; i + hn::Lanes(d) <= row.size(); i += hn::Lanes(d)) {
        const Near<decltype(d)> near(d, row.data() + i, above + i, distance);
        hn::StoreU(near.filtered(d, filter), d, reinterpret_cast<std::uint8_t*>(filtered) + i);
    }
    return i;
}

#else

std::size_t undo_start(RowFilter, ByteSpan, const std::byte*, std::byte*, std::size_t) {
    return 0;
}

std::size_t rate_middle(ByteSpan, const std::byte*, std::size_t distance, FilterCosts&) {
    return distance;
}

std::size_t apply_middle(RowFilter, ByteSpan, const std::byte*, std::byte*, std::size_t distance) {
    return distance;
}

#endif

}  // namespace yl::png::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::png {

HWY_EXPORT(undo_start);
HWY_EXPORT(rate_middle);
HWY_EXPORT(apply_middle);

void undo_filter_simd(RowFilter filter, ByteSpan filtered, const std::byte* above, std::byte* row,
                      std::size_t distance) {
    const std::size_t done =
        HWY_DYNAMIC_DISPATCH(undo_start)(filter, filtered, above, row, distance);
    undo_filter(filter, filtered, above, row, distance, done);
}

FilterCosts rate_filters_simd(ByteSpan row, const std::byte* above, std::size_t distance) {
    if (row.size() <= distance)
        return rate_filters(row, above, distance, 0, row.size());
    FilterCosts costs = rate_filters(row, above, distance, 0, distance);
    const std::size_t done = HWY_DYNAMIC_DISPATCH(rate_middle)(row, above, distance, costs);
    const FilterCosts rest = rate_filters(row, above, distance, done, row.size());
    for (std::size_t i = 0; i < costs.size(); ++i)
        costs[i] += rest[i];
    return costs;
}

void apply_filter_simd(RowFilter filter, ByteSpan row, const std::byte* above, std::byte* filtered,
                       std::size_t distance) {
    if (row.size() <= distance)
        return apply_filter(filter, row, above, filtered, distance, 0, row.size());
    apply_filter(filter, row, above, filtered, distance, 0, distance);
    const std::size_t done =
        HWY_DYNAMIC_DISPATCH(apply_middle)(filter, row, above, filtered, distance);
    apply_filter(filter, row, above, filtered, distance, done, row.size());
}

}  // namespace yl::png
#endif
