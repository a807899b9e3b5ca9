#include "codec/webp/yuv_rows.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "codec/webp/yuv_rows_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::webp::HWY_NAMESPACE {

#if HWY_TARGET == HWY_SCALAR

void mix_vectors(const std::uint8_t* near, const std::uint8_t* far, std::size_t count,
                 std::uint16_t* to) {
    mix_plain(near, far, count, to);
}
void spread_vectors(const std::uint16_t* mixed, std::size_t count, std::uint8_t* to) {
    spread_plain(mixed, count, to);
}
void colors_vectors(const std::uint8_t* y, const std::uint8_t* u, const std::uint8_t* v,
                    std::size_t count, std::byte* to, std::size_t channels) {
    to_colors_plain(y, u, v, count, to, channels);
}

#else

namespace hn = hwy::HWY_NAMESPACE;

using Wide = hn::FixedTag<std::uint16_t, 8>;
using Narrow = hn::FixedTag<std::uint8_t, 8>;
using Bytes = hn::FixedTag<std::uint8_t, 16>;
using W = hn::Vec<Wide>;

HWY_INLINE hn::Vec<Narrow> narrowed(W values) {
    const hn::RebindToSigned<Wide> numbers;
    return hn::DemoteTo(Narrow(), hn::BitCast(numbers, values));
}

void mix_vectors(const std::uint8_t* near, const std::uint8_t* far, std::size_t count,
                 std::uint16_t* to) {
    std::size_t i = 0;
    for (; i + 8 <= count; i += 8) {
        const W a = hn::PromoteTo(Wide(), hn::LoadU(Narrow(), near + i));
        const W b = hn::PromoteTo(Wide(), hn::LoadU(Narrow(), far + i));
        hn::StoreU(hn::Add(hn::Add(a, b), hn::Add(a, a)), Wide(), to + i);
    }
    mix_plain(near + i, far + i, count - i, to + i);
}

void spread_vectors(const std::uint16_t* mixed, std::size_t count, std::uint8_t* to) {
    std::size_t i = 0;
    for (; i + 8 <= count; i += 8) {
        const W before = hn::LoadU(Wide(), mixed + i), own = hn::LoadU(Wide(), mixed + i + 1),
                after = hn::LoadU(Wide(), mixed + i + 2);
        const W middle =
            hn::Add(hn::Add(own, hn::Add(own, own)), hn::Set(Wide(), std::uint16_t{8}));
        const auto even = narrowed(hn::ShiftRight<4>(hn::Add(middle, before)));
        const auto odd = narrowed(hn::ShiftRight<4>(hn::Add(middle, after)));
        hn::StoreInterleaved2(even, odd, Narrow(), to + 2 * i);
    }
    spread_plain(mixed + i, count - i, to + 2 * i);
}

/// Eight samples in the upper bytes, so that the higher half of a product has dropped 8 bits.
HWY_INLINE W raised(const std::uint8_t* samples) {
    return hn::ShiftLeft<8>(hn::PromoteTo(Wide(), hn::LoadU(Narrow(), samples)));
}
HWY_INLINE W product(W samples, std::uint16_t factor) {
    return hn::MulHigh(samples, hn::Set(Wide(), factor));
}
HWY_INLINE W less(W value, std::uint16_t offset) {
    return hn::ShiftRight<6>(hn::SaturatedSub(value, hn::Set(Wide(), offset)));
}

struct Colors {
    hn::Vec<Narrow> red, green, blue;
};

HWY_INLINE Colors eight_colors(const std::uint8_t* ys, const std::uint8_t* us,
                               const std::uint8_t* vs) {
    using F = ColorFactors;
    const W light = product(raised(ys), F::luma), u = raised(us), v = raised(vs);
    const W green =
        hn::SaturatedSub(hn::Add(light, hn::Set(Wide(), std::uint16_t{F::green_offset})),
                         hn::Add(product(u, F::green_of_u), product(v, F::green_of_v)));
    return {narrowed(less(hn::Add(light, product(v, F::red_of_v)), F::red_offset)),
            narrowed(hn::ShiftRight<6>(green)),
            narrowed(less(hn::Add(light, product(u, F::blue_of_u)), F::blue_offset))};
}

void colors_vectors(const std::uint8_t* y, const std::uint8_t* u, const std::uint8_t* v,
                    std::size_t count, std::byte* to, std::size_t channels) {
    std::size_t x = 0;
    auto* bytes = reinterpret_cast<std::uint8_t*>(to);
    for (; x + 16 <= count; x += 16) {
        const Colors low = eight_colors(y + x, u + x, v + x);
        const Colors high = eight_colors(y + x + 8, u + x + 8, v + x + 8);
        const auto red = hn::Combine(Bytes(), high.red, low.red);
        const auto green = hn::Combine(Bytes(), high.green, low.green);
        const auto blue = hn::Combine(Bytes(), high.blue, low.blue);
        if (channels == 4)
            hn::StoreInterleaved4(red, green, blue, hn::Set(Bytes(), std::uint8_t{255}), Bytes(),
                                  bytes + 4 * x);
        else
            hn::StoreInterleaved3(red, green, blue, Bytes(), bytes + 3 * x);
    }
    to_colors_plain(y + x, u + x, v + x, count - x, to + channels * x, channels);
}

#endif

}  // namespace yl::webp::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl::webp {

HWY_EXPORT(mix_vectors);
HWY_EXPORT(spread_vectors);
HWY_EXPORT(colors_vectors);

void mix(const std::uint8_t* near, const std::uint8_t* far, std::size_t count, std::uint16_t* to) {
    HWY_DYNAMIC_DISPATCH(mix_vectors)(near, far, count, to);
}

void spread(const std::uint16_t* mixed, std::size_t count, std::uint8_t* to) {
    HWY_DYNAMIC_DISPATCH(spread_vectors)(mixed, count, to);
}

void to_colors(const std::uint8_t* y, const std::uint8_t* u, const std::uint8_t* v,
               std::size_t count, std::byte* to, std::size_t channels) {
    HWY_DYNAMIC_DISPATCH(colors_vectors)(y, u, v, count, to, channels);
}

}  // namespace yl::webp
#endif
