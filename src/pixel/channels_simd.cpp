#include "pixel/channels.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "pixel/channels_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

/// Whole vectors of pixels from the last on; gives the number of pixels at the beginning that are
/// left.
std::size_t widen_bytes(const std::uint8_t* rgb, std::uint8_t* rgba, std::size_t count,
                        std::uint8_t opaque) {
    const hn::CappedTag<std::uint8_t, 16> bytes;
    const std::size_t n = hn::Lanes(bytes);
    const auto alpha = hn::Set(bytes, opaque);
    for (; count >= n; count -= n) {
        hn::Vec<decltype(bytes)> red, green, blue;
        hn::LoadInterleaved3(bytes, rgb + (count - n) * 3, red, green, blue);
        hn::StoreInterleaved4(red, green, blue, alpha, bytes, rgba + (count - n) * 4);
    }
    return count;
}

std::size_t exchange(const std::uint8_t* source, std::uint8_t* target, std::size_t count,
                     std::uint32_t channels) {
    const hn::CappedTag<std::uint8_t, 16> bytes;
    const std::size_t n = hn::Lanes(bytes);
    hn::Vec<decltype(bytes)> a, b, c, d;
    std::size_t i = 0;
    for (; channels == 3 && i + n <= count; i += n) {
        hn::LoadInterleaved3(bytes, source + i * 3, a, b, c);
        hn::StoreInterleaved3(c, b, a, bytes, target + i * 3);
    }
    for (; channels == 4 && i + n <= count; i += n) {
        hn::LoadInterleaved4(bytes, source + i * 4, a, b, c, d);
        hn::StoreInterleaved4(c, b, a, d, bytes, target + i * 4);
    }
    return i;
}

}  // namespace yl::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl {

HWY_EXPORT(widen_bytes);
HWY_EXPORT(exchange);

std::size_t exchange_red_and_blue_simd(const std::byte* source, std::byte* target,
                                       std::size_t count, std::uint32_t channels) {
    return HWY_DYNAMIC_DISPATCH(exchange)(reinterpret_cast<const std::uint8_t*>(source),
                                          reinterpret_cast<std::uint8_t*>(target), count, channels);
}

std::size_t widen_rgb8_simd(const std::byte* rgb, std::byte* rgba, std::size_t count,
                            std::uint8_t opaque) {
    return HWY_DYNAMIC_DISPATCH(widen_bytes)(reinterpret_cast<const std::uint8_t*>(rgb),
                                             reinterpret_cast<std::uint8_t*>(rgba), count, opaque);
}

}  // namespace yl
#endif
