#include <array>
#include <bit>
#include <cmath>

#include "pixel/rows.hpp"
#include "pixel/srgb8_encoder.hpp"

namespace yl {

/// 255 * 1.055 * (2^e)^(1/2.4) at place (e + 127) & 15, for e = -15 ... 0.
[[nodiscard]] const std::array<float, 16>& root_scales();

}  // namespace yl

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

HWY_INLINE hn::Vec<Floats> by_channel_floats(float color, float alpha) {
    return hn::BitCast(Floats(), by_channel(std::bit_cast<std::int32_t>(color),
                                            std::bit_cast<std::int32_t>(alpha)));
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

/// A polynomial of m^(1/2.4) over [1, 2), off by less than 2e-6 of its value.
HWY_INLINE hn::Vec<Floats> root_of_mantissa(hn::Vec<Floats> m) {
    constexpr std::array<float, 6> factors = {0.377617298F, 0.948255032F,  -0.485365653F,
                                              0.204192429F, -0.049934907F, 0.00523735522F};
    auto sum = hn::Set(Floats(), factors.back());
    for (std::size_t i = factors.size() - 1; i-- > 0;)
        sum = hn::MulAdd(sum, m, hn::Set(Floats(), factors[i]));
    return sum;
}

/// A table of sixteen, kept in vectors.
class TableOf16 {
 public:
    HWY_INLINE explicit TableOf16(const std::array<float, 16>& table)
        : low_(hn::LoadU(Floats(), table.data())),
          high_(hn::LoadU(Floats(), table.data() + table.size() - hn::Lanes(Floats()))) {}

    /// Vectors have eight lanes at least.
    HWY_INLINE hn::Vec<Floats> at(hn::Vec<Ints> places) const {
        const auto last = hn::Set(Ints(), static_cast<std::int32_t>(hn::MaxLanes(Floats())) - 1);
        const auto indices = hn::IndicesFromVec(Floats(), hn::And(places, last));
        const auto low = hn::TableLookupLanes(low_, indices);
        if constexpr (hn::MaxLanes(Floats()) >= 16)
            return low;
        const auto is_high = hn::TestBit(places, hn::Set(Ints(), 8));
        return hn::IfThenElse(hn::RebindMask(Floats(), is_high),
                              hn::TableLookupLanes(high_, indices), low);
    }

 private:
    hn::Vec<Floats> low_, high_;
};

/// The codes of RGBA where an estimate leaves no doubt about them.
template <bool srgb>
class CodeEstimate {
 public:
    HWY_INLINE CodeEstimate()
        : slopes_(by_channel_floats(srgb ? 12.92F * 255 : 255.0F, 255.0F)),
          knees_(by_channel_floats(0.0031308F, 2.0F)),
          root_scales_(root_scales()) {}

    /// False where a code lies so near to the boundary to the next that it has to be looked up.
    /// Only the lowest bytes of `code` count.
    HWY_INLINE bool codes(hn::Vec<Floats> value, hn::Vec<Ints>& code) const {
        // A number that is none becomes 0 here, or fails the comparison below.
        const auto clamped = hn::Min(hn::Max(value, hn::Zero(Floats())), hn::Set(Floats(), 1.0F));
        auto estimate = hn::Mul(clamped, slopes_);
        if constexpr (srgb)
            estimate = hn::IfThenElse(hn::Gt(clamped, knees_), curved(clamped), estimate);
        // Numbers of this size have no places behind the point, and their last bits count.
        const auto shift = hn::Set(Floats(), 1 << 23);
        const auto shifted = hn::Add(estimate, shift);
        code = hn::BitCast(Ints(), shifted);
        const auto rest = hn::Abs(hn::Sub(estimate, hn::Sub(shifted, shift)));
        return hn::AllTrue(Floats(), hn::Lt(rest, hn::Set(Floats(), 0.5F - doubt)));
    }

 private:
    static constexpr float doubt = 1.0F / 1024;  ///< twice what the estimate can be off, in codes

    HWY_INLINE hn::Vec<Floats> curved(hn::Vec<Floats> value) const {
        const auto bits = hn::BitCast(Ints(), value);
        const auto one = hn::BitCast(Ints(), hn::Set(Floats(), 1.0F));
        const auto mantissa = hn::Or(hn::And(bits, hn::Set(Ints(), 0x7FFFFF)), one);
        return hn::MulAdd(root_of_mantissa(hn::BitCast(Floats(), mantissa)),
                          root_scales_.at(hn::ShiftRight<23>(bits)),
                          hn::Set(Floats(), -255 * 0.055F));
    }

    hn::Vec<Floats> slopes_;
    hn::Vec<Floats> knees_;
    TableOf16 root_scales_;
};

/// Gives the number of channels done.
template <bool srgb>
HWY_INLINE std::size_t store_codes(const float* rgba, std::uint8_t* codes, std::size_t count) {
    const Srgb8Encoder& encoder = Srgb8Encoder::get();
    const std::size_t n = hn::Lanes(Floats());
    const auto is_alpha = hn::Ne(by_channel(0, 1), hn::Zero(Ints()));
    const CodeEstimate<srgb> estimate;
    std::size_t i = 0;
    for (; n >= 4 && i + n <= count; i += n) {
        const auto value = hn::LoadU(Floats(), rgba + i);
        auto code = hn::Zero(Ints());
        if (!(hn::MaxLanes(Floats()) >= 8 && n >= 8 && estimate.codes(value, code))) {
            code = unorm_codes(value);
            if constexpr (srgb)
                code = hn::IfThenElse(is_alpha, code, srgb_codes(value, encoder));
        }
        hn::StoreU(hn::U8FromU32(hn::BitCast(hn::RebindToUnsigned<Ints>(), code)), Bytes(),
                   codes + i);
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

const std::array<float, 16>& root_scales() {
    static const auto table = [] {
        std::array<float, 16> scales{};
        for (int e = -15; e <= 0; ++e)
            scales[static_cast<std::size_t>(e + 127) % 16] =
                static_cast<float>(255 * 1.055 * std::exp2(e / 2.4));
        return scales;
    }();
    return table;
}

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
