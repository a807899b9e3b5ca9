#include "cube/panorama_simd.hpp"

#include <algorithm>
#include <cmath>
#include <numbers>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "cube/panorama_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

#ifndef YL_ARC_FACTORS
#define YL_ARC_FACTORS
namespace yl {

/// Of odd powers of a from a^1 on: the arc whose tangent is a, for a from 0 to 1, off by less than
/// 2e-8 (Chebyshev interpolation).
inline constexpr std::array<float, 9> arc_factors = {0.999999984F,  -0.333330668F,  0.199924836F,
                                                     -0.142025705F, 0.106367541F,   -0.0749544544F,
                                                     0.0425876074F, -0.0160050305F, 0.00283406429F};

inline constexpr float half_circle = std::numbers::pi_v<float>;

}  // namespace yl
#endif

HWY_BEFORE_NAMESPACE();
namespace yl::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

#if HWY_TARGET != HWY_SCALAR

using Floats = hn::CappedTag<float, 16>;
using Vector = hn::Vec<Floats>;

/// As std::atan2, by the same operations as the plain twin.
HWY_INLINE Vector arc(Vector y, Vector x) {
    const Floats d;
    const auto ax = hn::Abs(x), ay = hn::Abs(y);
    const auto a = hn::Div(hn::Min(ax, ay), hn::Max(hn::Max(ax, ay), hn::Set(d, 1e-30F)));
    const auto square = hn::Mul(a, a);
    auto sum = hn::Set(d, arc_factors.back());
    for (std::size_t i = arc_factors.size() - 1; i-- > 0;)
        sum = hn::Add(hn::Mul(sum, square), hn::Set(d, arc_factors[i]));
    sum = hn::Mul(sum, a);
    sum = hn::IfThenElse(hn::Gt(ay, ax), hn::Sub(hn::Set(d, half_circle / 2), sum), sum);
    sum = hn::IfThenElse(hn::Lt(x, hn::Zero(d)), hn::Sub(hn::Set(d, half_circle), sum), sum);
    return hn::IfThenElse(hn::Lt(y, hn::Zero(d)), hn::Neg(sum), sum);
}

/// Gives the number of places found.
std::size_t places(const RowOfDirections& directions, float width, float height, float* x, float* y,
                   std::size_t count) {
    const Floats d;
    const std::size_t n = hn::Lanes(d);
    std::size_t i = 0;
    for (; i + n <= count; i += n) {
        const auto number = hn::Add(hn::Iota(d, 0), hn::Set(d, static_cast<float>(i)));
        const auto along = [&](std::size_t c) HWY_ATTR {
            return hn::Add(hn::Set(d, directions.first[c]),
                           hn::Mul(number, hn::Set(d, directions.step[c])));
        };
        const auto dx = along(0), dy = along(1), dz = along(2);
        const auto level = hn::Sqrt(hn::Add(hn::Mul(dx, dx), hn::Mul(dz, dz)));
        const auto u =
            hn::Add(hn::Mul(arc(dx, dz), hn::Set(d, 0.5F / half_circle)), hn::Set(d, 0.5F));
        const auto v = hn::Mul(arc(level, dy), hn::Set(d, 1 / half_circle));
        hn::StoreU(hn::Mul(u, hn::Set(d, width)), d, x + i);
        hn::StoreU(hn::Mul(v, hn::Set(d, height)), d, y + i);
    }
    return i;
}

#else

std::size_t places(const RowOfDirections&, float, float, float*, float*, std::size_t) {
    return 0;
}

#endif

}  // namespace yl::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl {

HWY_EXPORT(places);

namespace {

float arc_plain(float y, float x) {
    const float ax = std::abs(x), ay = std::abs(y);
    const float a = std::min(ax, ay) / std::max(std::max(ax, ay), 1e-30F);
    const float square = a * a;
    float sum = arc_factors.back();
    for (std::size_t i = arc_factors.size() - 1; i-- > 0;)
        sum = sum * square + arc_factors[i];
    sum *= a;
    if (ay > ax)
        sum = half_circle / 2 - sum;
    if (x < 0)
        sum = half_circle - sum;
    return y < 0 ? -sum : sum;
}

void places_from(std::size_t begin, const RowOfDirections& directions, float width, float height,
                 float* x, float* y, std::size_t count) {
    for (std::size_t i = begin; i < count; ++i) {
        std::array<float, 3> d{};
        for (std::size_t c = 0; c < 3; ++c)
            d[c] = directions.first[c] + static_cast<float>(i) * directions.step[c];
        const float level = std::sqrt(d[0] * d[0] + d[2] * d[2]);
        x[i] = (arc_plain(d[0], d[2]) * (0.5F / half_circle) + 0.5F) * width;
        y[i] = arc_plain(level, d[1]) * (1 / half_circle) * height;
    }
}

}  // namespace

void panorama_places(const RowOfDirections& directions, float width, float height, float* x,
                     float* y, std::size_t count) {
    const std::size_t done = HWY_DYNAMIC_DISPATCH(places)(directions, width, height, x, y, count);
    places_from(done, directions, width, height, x, y, count);
}

void panorama_places_plain(const RowOfDirections& directions, float width, float height, float* x,
                           float* y, std::size_t count) {
    places_from(0, directions, width, height, x, y, count);
}

}  // namespace yl
#endif
