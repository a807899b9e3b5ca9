#include "codec/webp/macroblock.hpp"

#include <algorithm>
#include <utility>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "codec/webp/macroblock_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::webp::HWY_NAMESPACE {

#if HWY_TARGET == HWY_SCALAR

void transform(const std::int16_t* coefficients, std::uint8_t* to) {
    add_transformed_plain(coefficients, to);
}
void add_number(int value, std::uint8_t* to) {
    add_constant_plain(value, to);
}

#else

namespace hn = hwy::HWY_NAMESPACE;

using Ints = hn::FixedTag<std::int32_t, 4>;
using V = hn::Vec<Ints>;

struct Rows {
    V of[4];
};

HWY_INLINE V times(V value, std::int32_t factor) {
    return hn::ShiftRight<16>(hn::Mul(value, hn::Set(Ints(), factor)));
}
HWY_INLINE V times_cosine(V value) {
    return hn::Add(value, times(value, 20091));
}
HWY_INLINE V times_sine(V value) {
    return times(value, 35468);
}

HWY_INLINE Rows one_pass(const Rows& in) {
    const V a = hn::Add(in.of[0], in.of[2]), b = hn::Sub(in.of[0], in.of[2]);
    const V c = hn::Sub(times_sine(in.of[1]), times_cosine(in.of[3]));
    const V d = hn::Add(times_cosine(in.of[1]), times_sine(in.of[3]));
    return {{hn::Add(a, d), hn::Add(b, c), hn::Sub(b, c), hn::Sub(a, d)}};
}

HWY_INLINE Rows transposed(const Rows& in) {
    const hn::RepartitionToWide<Ints> pairs;
    const auto zip = [&](V a, V b) {
        return std::pair{hn::BitCast(pairs, hn::InterleaveLower(Ints(), a, b)),
                         hn::BitCast(pairs, hn::InterleaveUpper(Ints(), a, b))};
    };
    const auto [low_01, high_01] = zip(in.of[0], in.of[1]);
    const auto [low_23, high_23] = zip(in.of[2], in.of[3]);
    const auto back = [&](auto v) { return hn::BitCast(Ints(), v); };
    return {{back(hn::InterleaveLower(pairs, low_01, low_23)),
             back(hn::InterleaveUpper(pairs, low_01, low_23)),
             back(hn::InterleaveLower(pairs, high_01, high_23)),
             back(hn::InterleaveUpper(pairs, high_01, high_23))}};
}

void transform(const std::int16_t* coefficients, std::uint8_t* to) {
    const hn::FixedTag<std::int16_t, 4> shorts;
    const hn::FixedTag<std::uint8_t, 4> bytes;
    Rows rows;
    for (int i = 0; i < 4; ++i)
        rows.of[i] = hn::PromoteTo(Ints(), hn::LoadU(shorts, coefficients + 4 * i));
    rows = transposed(one_pass(transposed(one_pass(rows))));
    for (int i = 0; i < 4; ++i, to += Surrounded::stride) {
        const V residue = hn::ShiftRight<3>(hn::Add(rows.of[i], hn::Set(Ints(), 4)));
        const V sum = hn::Add(residue, hn::PromoteTo(Ints(), hn::LoadU(bytes, to)));
        hn::StoreU(hn::DemoteTo(bytes, sum), bytes, to);
    }
}

void add_number(int value, std::uint8_t* to) {
    const hn::FixedTag<std::uint8_t, 4> bytes;
    const auto more = hn::Set(bytes, static_cast<std::uint8_t>(std::clamp(value, 0, 255)));
    const auto less = hn::Set(bytes, static_cast<std::uint8_t>(std::clamp(-value, 0, 255)));
    for (int i = 0; i < 4; ++i, to += Surrounded::stride) {
        const auto samples = hn::LoadU(bytes, to);
        hn::StoreU(hn::SaturatedSub(hn::SaturatedAdd(samples, more), less), bytes, to);
    }
}

#endif

}  // namespace yl::webp::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::webp {

HWY_EXPORT(transform);
HWY_EXPORT(add_number);

void add_transformed(const std::int16_t* coefficients, std::uint8_t* to) {
    HWY_DYNAMIC_DISPATCH(transform)(coefficients, to);
}

void add_constant(int value, std::uint8_t* to) {
    HWY_DYNAMIC_DISPATCH(add_number)(value, to);
}

}  // namespace yl::webp
#endif
