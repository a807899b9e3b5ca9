#include "resample/quarter_simd.hpp"

#include <algorithm>
#include <cmath>
#include <utility>

#include <yl/format.hpp>
#include "base/bytes.hpp"
#include "resample/rows_simd.hpp"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "resample/quarter_simd.cpp"
#include <hwy/foreach_target.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace yl::HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

// Tables of 32 floats need two vectors of sixteen; narrower ones are no faster than single loads.
#if HWY_TARGET <= HWY_AVX3

using Floats = hn::FixedTag<float, 16>;
using Ints = hn::RebindToSigned<Floats>;
using Bytes = hn::FixedTag<std::uint8_t, 16>;

struct Table {
    hn::Vec<Floats> low, high;

    HWY_INLINE explicit Table(const std::array<float, CodeCurve::parabolas>& values)
        : low(hn::LoadU(Floats(), values.data())), high(hn::LoadU(Floats(), values.data() + 16)) {}

    HWY_INLINE hn::Vec<Floats> at(hn::Vec<Ints> places) const {
        return hn::Vec<Floats>{_mm512_permutex2var_ps(low.raw, places.raw, high.raw)};
    }
};

class Curve {
 public:
    HWY_INLINE explicit Curve(const CodeCurve& curve)
        : middle_(curve.middle), slope_(curve.slope), bend_(curve.bend) {}

    HWY_INLINE hn::Vec<Floats> at(hn::Vec<Bytes> codes) const {
        const auto begin =
            hn::And(hn::SaturatedSub(codes, hn::Set(Bytes(), std::uint8_t{CodeCurve::first_code})),
                    hn::Set(Bytes(), std::uint8_t{0xF8}));
        const auto place = hn::ConvertTo(Floats(), hn::PromoteTo(Ints(), hn::Sub(codes, begin)));
        const auto l = hn::Sub(place, hn::Set(Floats(), CodeCurve::middle_place));
        const auto h = hn::ShiftRight<3>(hn::PromoteTo(Ints(), begin));
        return hn::MulAdd(l, hn::MulAdd(l, bend_.at(h), slope_.at(h)), middle_.at(h));
    }

 private:
    Table middle_, slope_, bend_;
};

HWY_INLINE bool are_opaque(hn::Vec<Bytes> codes) {
    const hn::Repartition<std::uint32_t, Bytes> texels;
    const auto alpha = hn::Set(texels, 0xFF000000U);
    return hn::AllTrue(texels, hn::Eq(hn::And(hn::BitCast(texels, codes), alpha), alpha));
}

/// Four texels of each row to two.
HWY_INLINE hn::Vec<Floats> sums_of_pairs(hn::Vec<Floats> a, hn::Vec<Floats> b) {
    const auto left = _mm512_shuffle_f32x4(a.raw, b.raw, 0x88);   // blocks 0 2 of both
    const auto right = _mm512_shuffle_f32x4(a.raw, b.raw, 0xDD);  // blocks 1 3 of both
    return hn::Add(hn::Vec<Floats>{left}, hn::Vec<Floats>{right});
}

bool quarter(const std::byte* above, const std::byte* below, const CodeCurve& curve, bool weigh,
             float* rgba, std::size_t count) {
    const auto* upper = reinterpret_cast<const std::uint8_t*>(above);
    const auto* lower = reinterpret_cast<const std::uint8_t*>(below);
    const Curve values(curve);
    const auto is_alpha = hn::RebindMask(
        Floats(), hn::Eq(hn::And(hn::Iota(Ints(), 0), hn::Set(Ints(), 3)), hn::Set(Ints(), 3)));
    const auto quarter = hn::Set(Floats(), 0.25F), one = hn::Set(Floats(), 1.0F);
    bool opaque = true;
    std::size_t x = 0;
    for (; x + 4 <= count; x += 4) {
        const auto a = hn::LoadU(Bytes(), upper + 8 * x),
                   b = hn::LoadU(Bytes(), upper + 8 * x + 16);
        const auto c = hn::LoadU(Bytes(), lower + 8 * x),
                   d = hn::LoadU(Bytes(), lower + 8 * x + 16);
        if (are_opaque(hn::And(hn::And(a, b), hn::And(c, d)))) {
            const auto sum = hn::Add(sums_of_pairs(values.at(a), values.at(b)),
                                     sums_of_pairs(values.at(c), values.at(d)));
            hn::StoreU(hn::IfThenElse(is_alpha, one, hn::Mul(sum, quarter)), Floats(),
                       rgba + 4 * x);
        } else {
            opaque = false;
            quarter_rows_plain(above + 8 * x, below + 8 * x, curve, weigh, rgba + 4 * x, 4);
        }
    }
    return quarter_rows_plain(above + 8 * x, below + 8 * x, curve, weigh, rgba + 4 * x,
                              count - x) &&
           opaque;
}

bool decode(const std::byte* codes, const CodeCurve& curve, float* rgba, std::size_t count) {
    const auto* bytes = reinterpret_cast<const std::uint8_t*>(codes);
    const Curve values(curve);
    const auto is_alpha = hn::RebindMask(
        Floats(), hn::Eq(hn::And(hn::Iota(Ints(), 0), hn::Set(Ints(), 3)), hn::Set(Ints(), 3)));
    const auto max = hn::Set(Floats(), 255.0F), one = hn::Set(Floats(), 1.0F);
    bool all_opaque = true;
    std::size_t x = 0;
    for (; x + 4 <= count; x += 4) {
        const auto four = hn::LoadU(Bytes(), bytes + 4 * x);
        const bool opaque = are_opaque(four);
        all_opaque = all_opaque && opaque;
        const auto alpha =
            opaque ? one : hn::Div(hn::ConvertTo(Floats(), hn::PromoteTo(Ints(), four)), max);
        hn::StoreU(hn::IfThenElse(is_alpha, alpha, values.at(four)), Floats(), rgba + 4 * x);
    }
    return decode_codes_plain(codes + 4 * x, curve, rgba + 4 * x, count - x) && all_opaque;
}

#else

bool decode(const std::byte* codes, const CodeCurve& curve, float* rgba, std::size_t count) {
    return decode_codes_plain(codes, curve, rgba, count);
}

bool quarter(const std::byte* above, const std::byte* below, const CodeCurve& curve, bool weigh,
             float* rgba, std::size_t count) {
    return quarter_rows_plain(above, below, curve, weigh, rgba, count);
}

#endif

}  // namespace yl::HWY_NAMESPACE
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace yl {

HWY_EXPORT(quarter);
HWY_EXPORT(decode);

namespace {

constexpr std::uint64_t both_alphas = 0xFF000000FF000000U;

std::size_t code_of(std::uint64_t texels, int place) {
    return texels >> (8 * place) & 0xFFU;
}

// Halving and quartering are exact, so that the order of multiplications does not matter; that of
// additions does. `above` and `below` hold two texels each, the left one in the lower half.

void average_opaque(std::uint64_t above, std::uint64_t below, const CodeTable& color,
                    float* pixel) {
    for (int c = 0; c < 3; ++c)
        pixel[c] = 0.25F * ((color[code_of(above, c)] + color[code_of(above, c + 4)]) +
                            (color[code_of(below, c)] + color[code_of(below, c + 4)]));
    pixel[3] = 1.0F;
}

/// Kept apart, so that the loop over opaque texels stays small.
[[gnu::noinline]] void average_any(std::uint64_t above, std::uint64_t below, const CodeTable& color,
                                   bool weigh, float* pixel) {
    float pair[2][4] = {};
    for (int row = 0; row < 2; ++row)
        for (const int place : {0, 4}) {
            const std::uint64_t texels = row == 0 ? above : below;
            const float alpha = static_cast<float>(code_of(texels, place + 3)) / 255.0F;
            const float weight = weigh ? alpha + min_weight : 1.0F;
            for (int c = 0; c < 3; ++c)
                pair[row][c] += color[code_of(texels, place + c)] * weight;
            pair[row][3] += weigh ? weight : alpha;
        }
    for (int c = 0; c < 4; ++c)
        pixel[c] = 0.25F * (pair[0][c] + pair[1][c]);
}

/// To a multiple of 1 / `steps`.
double to_grid(double value, double steps) {
    return std::nearbyint(value * steps) / steps;
}

}  // namespace

CodeCurve::CodeCurve(double (*decode)(double)) {
    constexpr double slope_steps = 1 << 27, bend_steps = 1 << 26;
    for (std::size_t h = 0; h < parabolas; ++h) {
        const auto value = [&](std::size_t place) {
            return decode(static_cast<double>(8 * h + place) / 255.0);
        };
        // Least squares over the eight places, -3.5 ... 3.5 from the middle; the sums of l^2 and
        // of (l^2 - 5.25)^2 over them are 42 and 168.
        double mean = 0, rise = 0, curving = 0;
        for (std::size_t place = first_code; place < first_code + 8; ++place) {
            const double l = static_cast<double>(place) - double{middle_place};
            mean += value(place) / 8;
            rise += value(place) * l / 42;
            curving += value(place) * (l * l - 5.25) / 168;
        }
        slope[h] = static_cast<float>(to_grid(rise, slope_steps));
        bend[h] = static_cast<float>(to_grid(curving, bend_steps));
        middle[h] = static_cast<float>(mean - 5.25 * curving);
    }
    middle[0] = middle_place * slope[0];  // so that code 0 is nothing
    bend[0] = 0;
    for (std::uint32_t code = 0; code < values.size(); ++code) {
        const std::uint32_t begin = (std::max(code, first_code) - first_code) & 0xF8U;
        const float l = static_cast<float>(code - begin) - middle_place;
        values[code] = middle[begin / 8] + l * (slope[begin / 8] + l * bend[begin / 8]);
    }
}

const CodeCurve& CodeCurve::srgb() {
    static const CodeCurve curve(srgb_decode);
    return curve;
}

const CodeCurve& CodeCurve::unorm() {
    static const CodeCurve curve([](double code) { return code; });
    return curve;
}

const CodeCurve& code_curve(Format format, Transfer transfer) {
    return info(format).transfer == Transfer::srgb || transfer == Transfer::srgb
               ? CodeCurve::srgb()
               : CodeCurve::unorm();
}

bool decode_codes(const std::byte* codes, const CodeCurve& curve, float* rgba, std::size_t count) {
    return HWY_DYNAMIC_DISPATCH(decode)(codes, curve, rgba, count);
}

bool decode_codes_plain(const std::byte* codes, const CodeCurve& curve, float* rgba,
                        std::size_t count) {
    bool opaque = true;
    for (std::size_t i = 0; i < 4 * count; ++i) {
        const auto code = std::to_integer<std::size_t>(codes[i]);
        opaque = opaque && (i % 4 != 3 || code == 255);
        rgba[i] = i % 4 == 3 ? static_cast<float>(code) / 255.0F : curve.values[code];
    }
    return opaque;
}

bool quarter_rows(const std::byte* above, const std::byte* below, const CodeCurve& curve,
                  bool weigh, float* rgba, std::size_t count) {
    return HWY_DYNAMIC_DISPATCH(quarter)(above, below, curve, weigh, rgba, count);
}

bool quarter_rows_plain(const std::byte* above, const std::byte* below, const CodeCurve& curve,
                        bool weigh, float* rgba, std::size_t count) {
    bool opaque = true;
    for (std::size_t x = 0; x < count; ++x) {
        const auto a = load<std::uint64_t>(above + 8 * x), b = load<std::uint64_t>(below + 8 * x);
        if ((a & b & both_alphas) == both_alphas) {
            average_opaque(a, b, curve.values, rgba + 4 * x);
        } else {
            opaque = false;
            average_any(a, b, curve.values, weigh, rgba + 4 * x);
        }
    }
    return opaque;
}

}  // namespace yl
#endif
