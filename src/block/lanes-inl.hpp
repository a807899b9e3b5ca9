// Many blocks at once, one in each lane of a vector: what the encoders are written with. Included
// once for each instruction set. Lanes never look at each other, so a block's bytes depend neither
// on its neighbours nor on how many lanes there are.

#if defined(YL_BLOCK_LANES_INL_HPP) == defined(HWY_TARGET_TOGGLE)
#ifdef YL_BLOCK_LANES_INL_HPP
#undef YL_BLOCK_LANES_INL_HPP
#else
#define YL_BLOCK_LANES_INL_HPP
#endif

#include <hwy/highway.h>

#include <bit>
#include <cstddef>
#include <cstdint>

HWY_BEFORE_NAMESPACE();
namespace yl::simd::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

using Floats = hn::ScalableTag<float>;
using Ints = hn::RebindToSigned<Floats>;
using F = hn::Vec<Floats>;
using I = hn::Vec<Ints>;
using Mask = hn::Mask<Floats>;

HWY_INLINE std::size_t lanes() {
    return hn::Lanes(Floats());
}
HWY_INLINE F set(float value) {
    return hn::Set(Floats(), value);
}
HWY_INLINE I set_int(std::int32_t value) {
    return hn::Set(Ints(), value);
}
HWY_INLINE F zero() {
    return hn::Zero(Floats());
}
HWY_INLINE F to_float(I value) {
    return hn::ConvertTo(Floats(), value);
}
// Beside this, numbers of less than 2^22 have no room for fractions. Conversions that mind overflow
// take four times as many instructions.
constexpr float no_fractions = 12582912.0F;

/// The nearest whole number, of two the even one; for less than 2^22 on either side of 0.
HWY_INLINE F rounded(F value) {
    return (value + set(no_fractions)) - set(no_fractions);
}
HWY_INLINE I to_int(F value) {
    return hn::BitCast(Ints(), value + set(no_fractions)) - hn::BitCast(Ints(), set(no_fractions));
}
HWY_INLINE F clamped(F value, F min, F max) {
    return hn::Min(hn::Max(value, min), max);
}
HWY_INLINE F squared(F value) {
    return value * value;
}
HWY_INLINE F if_then_else(Mask where, F yes, F no) {
    return hn::IfThenElse(where, yes, no);
}
HWY_INLINE I if_then_else(Mask where, I yes, I no) {
    return hn::IfThenElse(hn::RebindMask(Ints(), where), yes, no);
}
/// 1 / value, and 0 where that is 0.
HWY_INLINE F inverse_or_zero(F value) {
    return hn::IfThenZeroElse(value == zero(),
                              set(1.0F) / if_then_else(value == zero(), set(1.0F), value));
}
HWY_INLINE Mask and_mask(Mask a, Mask b) {
    return hn::And(a, b);
}
HWY_INLINE bool all_false(Mask where) {
    return hn::AllFalse(Floats(), where);
}
/// Where bit `bit` is set.
HWY_INLINE Mask has_bit(I bits, std::int32_t bit) {
    return hn::RebindMask(Floats(), hn::TestBit(bits, set_int(std::int32_t{1} << bit)));
}

/// Keeps the better of two candidates in each lane.
HWY_INLINE void update_where(Mask better, F candidate, F& best) {
    best = if_then_else(better, candidate, best);
}
HWY_INLINE void update_where(Mask better, I candidate, I& best) {
    best = if_then_else(better, candidate, best);
}

/// Element `at` of each lane's own block of `stride` elements; lanes beyond `count` repeat the
/// last.
HWY_INLINE I lane_offsets(std::size_t count, std::int32_t stride) {
    return hn::Min(hn::Iota(Ints(), 0), set_int(static_cast<std::int32_t>(count) - 1)) *
           set_int(stride);
}

/// With the four bytes in the opposite order.
HWY_INLINE I byte_swapped(I word) {
    return hn::ShiftLeft<24>(word) | hn::ShiftLeft<8>(word & set_int(0xFF00)) |
           (hn::ShiftRight<8>(word) & set_int(0xFF00)) | (hn::ShiftRight<24>(word) & set_int(0xFF));
}

/// Word `at` of each lane's block, little-endian in memory.
HWY_INLINE I gather_words(const std::byte* blocks, std::size_t at, I offsets) {
    const I word =
        hn::GatherIndex(Ints(), reinterpret_cast<const std::int32_t*>(blocks) + at, offsets);
    if constexpr (std::endian::native == std::endian::little)
        return word;
    else
        return byte_swapped(word);
}

/// Stores one word of each lane's block: word `word` of blocks of `words` words.
HWY_INLINE void store_words(I value, std::size_t count, std::size_t words, std::size_t word,
                            std::byte* blocks) {
    HWY_ALIGN std::int32_t lane_values[hn::MaxLanes(Ints())];
    hn::Store(value, Ints(), lane_values);
    for (std::size_t lane = 0; lane < count; ++lane)
        store(blocks + 4 * (lane * words + word), static_cast<std::uint32_t>(lane_values[lane]));
}

}  // namespace yl::simd::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#endif
