#include <bit>
#include <cmath>
#include <limits>
#include <random>
#include <yl/format.hpp>

#include "support/check.hpp"

using namespace yl;

namespace {

long double reference_decode(long double encoded) {
    return encoded <= 0.04045L ? encoded / 12.92L : std::pow((encoded + 0.055L) / 1.055L, 2.4L);
}

long double reference_encode(long double linear) {
    return linear <= 0.0031308L ? linear * 12.92L : 1.055L * std::pow(linear, 1 / 2.4L) - 0.055L;
}

/// Any number as the nearest of all codes, by looking at every one of them.
template <class Decode>
std::uint32_t nearest_code(float value, std::uint32_t count, Decode decode) {
    std::uint32_t best = 0;
    for (std::uint32_t code = 1; code < count; ++code)
        if (std::abs(double{decode(code)} - double{value}) <
            std::abs(double{decode(best)} - double{value}))
            best = code;
    return best;
}

}  // namespace

TEST_CASE("every 8-bit sRGB code decodes to the nearest float and encodes back to itself") {
    for (int code = 0; code < 256; ++code) {
        const float linear = srgb8_to_linear()[static_cast<std::size_t>(code)];
        const long double exact = reference_decode(code / 255.0L);
        CHECK(std::abs(static_cast<long double>(linear) - exact) <=
              0.5001L * static_cast<long double>(std::nextafter(linear, 2.0F) - linear));
        CHECK(linear_to_srgb8(linear) == code);
    }
}

TEST_CASE("linear values encode to the nearest sRGB code, also right at the boundaries") {
    for (int code = 0; code < 255; ++code) {
        const auto boundary = static_cast<float>(reference_decode((code + 0.5L) / 255.0L));
        for (float value = std::nextafter(boundary, 0.0F); value <= std::nextafter(boundary, 1.0F);
             value = std::nextafter(value, 2.0F)) {
            const long double encoded = reference_encode(static_cast<long double>(value)) * 255;
            if (std::abs(encoded - (code + 0.5L)) < 1e-9L)
                continue;  // a tie, for long double too
            CHECK(linear_to_srgb8(value) == static_cast<int>(std::floor(encoded + 0.5L)));
        }
    }
    std::mt19937 random(5);
    std::uniform_real_distribution<float> exponent(-20.0F, 0.5F);
    for (int i = 0; i < 200000; ++i) {
        const float value = std::exp2(exponent(random));
        const auto expected = std::min(
            255.0L, std::floor(reference_encode(static_cast<long double>(value)) * 255 + 0.5L));
        REQUIRE(linear_to_srgb8(value) == static_cast<int>(expected));
    }
}

TEST_CASE("values out of range and NaN encode to an end of the scale") {
    CHECK(linear_to_srgb8(-1.0F) == 0);
    CHECK(linear_to_srgb8(-0.0F) == 0);
    CHECK(linear_to_srgb8(7.0F) == 255);
    CHECK(linear_to_srgb8(std::numeric_limits<float>::infinity()) == 255);
    CHECK(linear_to_srgb8(std::numeric_limits<float>::quiet_NaN()) == 0);
}

TEST_CASE("the curve is its own inverse and joins at the knee") {
    for (double x = 0; x <= 1.0; x += 1.0 / 512)
        CHECK(srgb_encode(srgb_decode(x)) == doctest::Approx(x).epsilon(1e-9));
    CHECK(srgb_decode(1.0) == doctest::Approx(1.0));
    CHECK(srgb_decode(0.5) == doctest::Approx(0.21404114));
    CHECK(srgb_decode(-0.5) == doctest::Approx(-0.21404114));
}

TEST_CASE("all 65,536 half patterns become the right float and come back unchanged") {
    for (std::uint32_t bits = 0; bits < 65536; ++bits) {
        const auto half = static_cast<std::uint16_t>(bits);
        const float value = half_to_float(half);
        const int exponent = static_cast<int>(bits >> 10 & 31);
        const int mantissa = static_cast<int>(bits & 1023);
        const double sign = (bits & 0x8000) != 0 ? -1.0 : 1.0;
        if (exponent == 31 && mantissa != 0)
            CHECK(std::isnan(value));
        else if (exponent == 31)
            CHECK(double{value} == sign * std::numeric_limits<double>::infinity());
        else if (exponent == 0)
            CHECK(double{value} == sign * std::ldexp(mantissa, -24));
        else
            CHECK(double{value} == sign * std::ldexp(1024 + mantissa, exponent - 25));
        REQUIRE(float_to_half(value) == half);
    }
}

TEST_CASE("floats become the nearest half, ties to even, and overflow to infinity") {
    CHECK(float_to_half(65504.0F) == 0x7BFF);
    CHECK(float_to_half(65519.9F) == 0x7BFF);
    CHECK(float_to_half(65520.0F) == 0x7C00);
    CHECK(float_to_half(1.0F + 1.0F / 2048) == 0x3C00);     // a tie: even is below
    CHECK(float_to_half(1.0F + 3.0F / 2048) == 0x3C02);     // a tie: even is above
    CHECK(float_to_half(std::ldexp(1.0F, -25)) == 0x0000);  // a tie with zero
    CHECK(float_to_half(std::nextafter(std::ldexp(1.0F, -25), 1.0F)) == 0x0001);
    CHECK(float_to_half(-std::ldexp(1.0F, -24)) == 0x8001);
    CHECK((float_to_half(std::numeric_limits<float>::quiet_NaN()) & 0x7C00) == 0x7C00);
    std::mt19937 random(9);
    for (int i = 0; i < 100000; ++i) {
        const float value = std::bit_cast<float>(static_cast<std::uint32_t>(random()));
        if (!std::isfinite(value) || std::abs(value) > 65504.0F)
            continue;
        const std::uint16_t half = float_to_half(value);
        const double error = std::abs(double{half_to_float(half)} - double{value});
        const double up =
            std::abs(double{half_to_float(static_cast<std::uint16_t>(half + 1))} - double{value});
        REQUIRE(error <= up);
        if ((half & 0x7FFF) != 0)
            REQUIRE(error <= std::abs(double{half_to_float(static_cast<std::uint16_t>(half - 1))} -
                                      double{value}));
    }
}

TEST_CASE("small unsigned floats: every pattern comes back, others go to the nearest") {
    for (const int mantissa_bits : {5, 6}) {
        const std::uint32_t infinity = 31U << mantissa_bits;
        const auto decode = [&](std::uint32_t code) {
            return small_float_to_float(code, mantissa_bits);
        };
        for (std::uint32_t code = 0; code < infinity; ++code) {
            const std::uint32_t exponent = code >> mantissa_bits;
            const std::uint32_t mantissa = code & ((1U << mantissa_bits) - 1);
            const double exact = exponent == 0
                                     ? std::ldexp(mantissa, -14 - mantissa_bits)
                                     : std::ldexp((1U << mantissa_bits) + mantissa,
                                                  static_cast<int>(exponent) - 15 - mantissa_bits);
            REQUIRE(double{decode(code)} == exact);
            REQUIRE(float_to_small_float(decode(code), mantissa_bits) == code);
        }
        std::mt19937 random(3);
        std::uniform_real_distribution<float> exponent(-16.0F, 15.0F);
        for (int i = 0; i < 500; ++i) {
            const float value = std::exp2(exponent(random));
            REQUIRE(decode(float_to_small_float(value, mantissa_bits)) ==
                    decode(nearest_code(value, infinity, decode)));
        }
        CHECK(float_to_small_float(-3.0F, mantissa_bits) == 0);
        CHECK(float_to_small_float(1e9F, mantissa_bits) == infinity - 1);
        CHECK(float_to_small_float(std::numeric_limits<float>::infinity(), mantissa_bits) ==
              infinity);
        CHECK(std::isnan(
            decode(float_to_small_float(std::numeric_limits<float>::quiet_NaN(), mantissa_bits))));
    }
}

TEST_CASE("shared exponent: hand-worked values, ranges, and the error of half a step") {
    CHECK(float_to_rgb9e5(1.0F, 0.5F, 0.0F) == (16U << 27 | 128U << 9 | 256U));
    const auto one = rgb9e5_to_float(16U << 27 | 0U << 18 | 128U << 9 | 256U);
    CHECK(one[0] == 1.0F);
    CHECK(one[1] == 0.5F);
    CHECK(one[2] == 0.0F);
    CHECK(rgb9e5_to_float(float_to_rgb9e5(1e9F, 0, 0))[0] == 65408.0F);
    CHECK(float_to_rgb9e5(-1.0F, std::numeric_limits<float>::quiet_NaN(), 0.0F) == 0);
    CHECK(float_to_rgb9e5(std::ldexp(1.0F, -24), 0, 0) == 1);
    std::mt19937 random(17);
    std::uniform_real_distribution<float> value(0.0F, 100.0F);
    for (int i = 0; i < 20000; ++i) {
        const float rgb[] = {value(random), value(random), value(random)};
        const auto back = rgb9e5_to_float(float_to_rgb9e5(rgb[0], rgb[1], rgb[2]));
        const float most = std::max({rgb[0], rgb[1], rgb[2]});
        for (std::size_t c = 0; c < 3; ++c)
            REQUIRE(std::abs(back[c] - rgb[c]) <= most / 256 / 2 * 1.01F);
    }
}
