// The widening that pictures need most: three bytes to four.
#include "pixel/widen.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "pixel/widen_simd.cpp"
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

}  // namespace yl::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl {

HWY_EXPORT(widen_bytes);

std::size_t widen_rgb8_simd(const std::byte* rgb, std::byte* rgba, std::size_t count,
                            std::uint8_t opaque) {
    return HWY_DYNAMIC_DISPATCH(widen_bytes)(reinterpret_cast<const std::uint8_t*>(rgb),
                                             reinterpret_cast<std::uint8_t*>(rgba), count, opaque);
}

}  // namespace yl
#endif
