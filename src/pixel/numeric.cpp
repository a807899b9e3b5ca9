#include <yl/format.hpp>

#include <algorithm>
#include <bit>
#include <cmath>
#include <limits>

#include "pixel/srgb8_encoder.hpp"

namespace yl {
namespace {

constexpr double srgb_linear_slope = 12.92;
constexpr double srgb_knee_encoded = 0.04045;
constexpr double srgb_knee_linear = 0.0031308;

constexpr int half_mantissa_bits = 10;
constexpr int float_mantissa_bits = 23;
constexpr int bias_difference = 127 - 15;
constexpr float max_rgb9e5 = 65408.0F;  // (2^9 - 1) / 2^9 * 2^16

/// Rounds a positive finite float to 5 exponent bits (bias 15) and `mantissa_bits`, to nearest
/// even. The result may be the pattern of infinity.
std::uint32_t round_to_5_exponent_bits(std::uint32_t bits, int mantissa_bits) {
    const int exponent = static_cast<int>(bits >> float_mantissa_bits) - bias_difference;
    const int drop = float_mantissa_bits - mantissa_bits + (exponent < 1 ? 1 - exponent : 0);
    if (drop > float_mantissa_bits + 2)
        return 0;
    std::uint32_t mantissa = bits & 0x7FFFFFU;
    if (exponent < 1)
        mantissa |= 0x800000U;  // denormal in the target: the leading one is stored
    const std::uint32_t half_step = 1U << (drop - 1);
    const std::uint32_t kept = mantissa >> drop;
    const std::uint32_t rest = mantissa & ((1U << drop) - 1U);
    std::uint32_t result =
        exponent < 1 ? kept : (static_cast<std::uint32_t>(exponent) << mantissa_bits) + kept;
    if (rest > half_step || (rest == half_step && (kept & 1U) != 0))
        ++result;
    return std::min(result, 31U << mantissa_bits);
}

float expand_5_exponent_bits(std::uint32_t bits, int mantissa_bits) {
    const std::uint32_t exponent = bits >> mantissa_bits;
    const std::uint32_t mantissa = bits & ((1U << mantissa_bits) - 1U);
    const int shift = float_mantissa_bits - mantissa_bits;
    if (exponent == 31)
        return std::bit_cast<float>(0x7F800000U | (mantissa << shift));
    if (exponent == 0)
        return std::ldexp(static_cast<float>(mantissa), -14 - mantissa_bits);
    return std::bit_cast<float>(((exponent + bias_difference) << float_mantissa_bits) |
                                (mantissa << shift));
}

}  // namespace

double srgb_decode(double encoded) {
    const double size = std::abs(encoded);
    const double linear = size <= srgb_knee_encoded ? size / srgb_linear_slope
                                                    : std::pow((size + 0.055) / 1.055, 2.4);
    return std::copysign(linear, encoded);
}

double srgb_encode(double linear) {
    const double size = std::abs(linear);
    const double encoded = size <= srgb_knee_linear ? size * srgb_linear_slope
                                                    : 1.055 * std::pow(size, 1.0 / 2.4) - 0.055;
    return std::copysign(encoded, linear);
}

const std::array<float, 256>& srgb8_to_linear() {
    static const auto table = [] {
        std::array<float, 256> values{};
        for (std::size_t code = 0; code < values.size(); ++code)
            values[code] = static_cast<float>(srgb_decode(static_cast<double>(code) / 255.0));
        return values;
    }();
    return table;
}

Srgb8Encoder::Srgb8Encoder() {
    // The least float that rounds to each code; the last entry is never reached.
    std::array<float, 257> lower{};
    for (int code = 1; code < 256; ++code) {
        const double boundary = srgb_decode((code - 0.5) / 255.0);
        auto min = static_cast<float>(boundary);
        if (min < boundary)
            min = std::nextafter(min, 2.0F);
        lower[static_cast<std::size_t>(code)] = min;
    }
    lower[256] = std::numeric_limits<float>::infinity();
    std::size_t code = 0;
    for (std::size_t bucket = 0; bucket < bucket_count; ++bucket) {
        const auto bits = first_bits + (static_cast<std::uint32_t>(bucket) << bucket_shift);
        while (std::bit_cast<float>(bits) >= lower[code + 1])
            ++code;
        buckets[bucket] = std::uint64_t{std::bit_cast<std::uint32_t>(lower[code + 1])} << 32 | code;
    }
}

const Srgb8Encoder& Srgb8Encoder::get() {
    static const Srgb8Encoder encoder;
    return encoder;
}

std::uint8_t linear_to_srgb8(float linear) {
    const Srgb8Encoder& encoder = Srgb8Encoder::get();
    if (!(linear >= std::bit_cast<float>(Srgb8Encoder::first_bits)))
        return 0;
    if (linear >= 1.0F)
        return 255;
    const std::uint32_t bits = std::bit_cast<std::uint32_t>(linear);
    const std::uint64_t bucket =
        encoder.buckets[(bits - Srgb8Encoder::first_bits) >> Srgb8Encoder::bucket_shift];
    const auto next = std::bit_cast<float>(static_cast<std::uint32_t>(bucket >> 32));
    return static_cast<std::uint8_t>((bucket & 0xFF) + (linear >= next ? 1 : 0));
}

float half_to_float(std::uint16_t half) {
    const float size = expand_5_exponent_bits(half & 0x7FFFU, half_mantissa_bits);
    const std::uint32_t sign = static_cast<std::uint32_t>(half & 0x8000U) << 16;
    return std::bit_cast<float>(std::bit_cast<std::uint32_t>(size) | sign);
}

std::uint16_t float_to_half(float value) {
    const std::uint32_t bits = std::bit_cast<std::uint32_t>(value);
    const std::uint32_t sign = (bits >> 16) & 0x8000U;
    const std::uint32_t size = bits & 0x7FFFFFFFU;
    if (size > 0x7F800000U) {
        const std::uint32_t payload = (size >> (float_mantissa_bits - half_mantissa_bits)) & 0x3FFU;
        return static_cast<std::uint16_t>(sign | 0x7C00U | (payload != 0 ? payload : 0x200U));
    }
    if (size == 0x7F800000U)
        return static_cast<std::uint16_t>(sign | 0x7C00U);
    return static_cast<std::uint16_t>(sign | round_to_5_exponent_bits(size, half_mantissa_bits));
}

float small_float_to_float(std::uint32_t bits, int mantissa_bits) {
    return expand_5_exponent_bits(bits, mantissa_bits);
}

std::uint32_t float_to_small_float(float value, int mantissa_bits) {
    const std::uint32_t infinity = 31U << mantissa_bits;
    if (std::isnan(value))
        return infinity | (1U << (mantissa_bits - 1));
    if (value <= 0.0F)
        return 0;
    if (std::isinf(value))
        return infinity;
    return std::min(round_to_5_exponent_bits(std::bit_cast<std::uint32_t>(value), mantissa_bits),
                    infinity - 1U);
}

std::array<float, 3> rgb9e5_to_float(std::uint32_t bits) {
    const float scale = std::ldexp(1.0F, static_cast<int>(bits >> 27) - 15 - 9);
    const auto mantissa = [&](int shift) {
        return static_cast<float>((bits >> shift) & 0x1FFU) * scale;
    };
    return {mantissa(0), mantissa(9), mantissa(18)};
}

std::uint32_t float_to_rgb9e5(float red, float green, float blue) {
    const auto in_range = [](float value) {
        return value > 0.0F ? std::min(value, max_rgb9e5) : 0.0F;
    };
    const std::array<float, 3> rgb = {in_range(red), in_range(green), in_range(blue)};
    const float most = std::max({rgb[0], rgb[1], rgb[2]});
    int exponent = most > 0.0F ? std::max(-16, std::ilogb(most)) + 16 : 0;
    // Rounding the greatest mantissa may carry into a tenth bit; then one exponent more is needed.
    if (std::floor(std::ldexp(most, 24 - exponent) + 0.5F) >= 512.0F)
        ++exponent;
    const auto mantissa = [&](float value) {
        return static_cast<std::uint32_t>(std::floor(std::ldexp(value, 24 - exponent) + 0.5F));
    };
    return mantissa(rgb[0]) | mantissa(rgb[1]) << 9 | mantissa(rgb[2]) << 18 |
           static_cast<std::uint32_t>(exponent) << 27;
}

}  // namespace yl
