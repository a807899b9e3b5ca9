#include <array>

#include "pixel/rows.hpp"
#include "pixel/srgb8_encoder.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "pixel/rows_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

using Floats = hn::CappedTag<float, 16>;
using Ints = hn::RebindToSigned<Floats>;
using Bytes = hn::Rebind<std::uint8_t, Floats>;

/// For each lane of RGBA, RGBA ...: `color` or `alpha`.
HWY_INLINE hn::Vec<Ints> by_channel(std::int32_t color, std::int32_t alpha) {
    alignas(64) std::array<std::int32_t, 16> lanes{};
    for (std::size_t i = 0; i < lanes.size(); ++i)
        lanes[i] = i % 4 == 3 ? alpha : color;
    return hn::Load(Ints(), lanes.data());
}

#if HWY_TARGET != HWY_SCALAR

HWY_INLINE hn::Vec<Ints> unorm_codes(hn::Vec<Floats> value) {
    // Max gives its second number for NaN on x86, but not everywhere.
    const auto positive = hn::IfThenElseZero(hn::Gt(value, hn::Zero(Floats())), value);
    const auto clamped = hn::Min(positive, hn::Set(Floats(), 1.0F));
    return hn::ConvertTo(
        Ints(), hn::Add(hn::Mul(clamped, hn::Set(Floats(), 255.0F)), hn::Set(Floats(), 0.5F)));
}

HWY_INLINE hn::Vec<Ints> srgb_codes(hn::Vec<Floats> value, const Srgb8Encoder& encoder) {
    const auto first_bits = hn::Set(Ints(), static_cast<std::int32_t>(Srgb8Encoder::first_bits));
    const auto first = hn::BitCast(Floats(), first_bits);
    const auto clamped =
        hn::Min(hn::IfThenElse(hn::Ge(value, first), value, first), hn::Set(Floats(), 1.0F));
    const auto bucket = hn::ShiftRight<Srgb8Encoder::bucket_shift>(
        hn::Sub(hn::BitCast(Ints(), clamped), first_bits));
    // One lookup after the other: processors that are patched against leaks of data gather slowly.
    constexpr std::size_t most = 16;
    alignas(64) std::array<std::int32_t, most> places;
    alignas(64) std::array<std::uint64_t, most> found;
    const std::size_t n = hn::Lanes(Ints());
    hn::Store(bucket, Ints(), places.data());
    for (std::size_t i = 0; i < n; ++i)
        found[i] = encoder.buckets[static_cast<std::uint32_t>(places[i])];
    const auto* words = reinterpret_cast<const std::int32_t*>(found.data());
    const auto low = hn::Load(Ints(), words);
    const auto high = hn::Load(Ints(), words + n);
    const auto code = hn::ConcatEven(Ints(), high, low);
    const auto next = hn::BitCast(Floats(), hn::ConcatOdd(Ints(), high, low));
    const auto is_next = hn::RebindMask(Ints(), hn::Ge(clamped, next));
    return hn::Add(code, hn::IfThenElseZero(is_next, hn::Set(Ints(), 1)));
}

/// Gives the number of channels done.
template <bool srgb>
HWY_INLINE std::size_t store_codes(const float* rgba, std::uint8_t* codes, std::size_t count) {
    const Srgb8Encoder& encoder = Srgb8Encoder::get();
    const std::size_t n = hn::Lanes(Floats());
    const auto is_alpha = hn::Ne(by_channel(0, 1), hn::Zero(Ints()));
    std::size_t i = 0;
    for (; n >= 4 && i + n <= count; i += n) {
        const auto value = hn::LoadU(Floats(), rgba + i);
        auto code = unorm_codes(value);
        if constexpr (srgb)
            code = hn::IfThenElse(is_alpha, code, srgb_codes(value, encoder));
        hn::StoreU(hn::DemoteTo(Bytes(), code), Bytes(), codes + i);
    }
    return i;
}

#else

template <bool srgb>
std::size_t store_codes(const float*, std::uint8_t*, std::size_t) {
    return 0;
}

#endif

std::size_t store_srgb(const float* rgba, std::uint8_t* codes, std::size_t count) {
    return store_codes<true>(rgba, codes, count);
}

std::size_t store_unorm(const float* rgba, std::uint8_t* codes, std::size_t count) {
    return store_codes<false>(rgba, codes, count);
}

}  // namespace yl::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl {

HWY_EXPORT(store_srgb);
HWY_EXPORT(store_unorm);

namespace {

void store_rest(const float* rgba, std::byte* texels, std::size_t done, std::size_t count,
                Format format) {
    plain_row_codec(format, Transfer::linear).store(rgba + done, texels + done, count - done / 4);
}

}  // namespace

void store_rgba8_srgb(const float* rgba, std::byte* texels, std::size_t count) {
    const std::size_t done =
        HWY_DYNAMIC_DISPATCH(store_srgb)(rgba, reinterpret_cast<std::uint8_t*>(texels), 4 * count);
    store_rest(rgba, texels, done, count, Format::rgba8_srgb);
}

void store_rgba8_unorm(const float* rgba, std::byte* texels, std::size_t count) {
    const std::size_t done =
        HWY_DYNAMIC_DISPATCH(store_unorm)(rgba, reinterpret_cast<std::uint8_t*>(texels), 4 * count);
    store_rest(rgba, texels, done, count, Format::rgba8_unorm);
}

}  // namespace yl
#endif
