// Single numbers in and out of storage: the sRGB curve, half and small floats.
#pragma once

#include <array>
#include <cstdint>

namespace yl {

/// The sRGB curve of IEC 61966-2-1, piecewise, on [0, 1]; odd-symmetric below 0, extended above 1.
[[nodiscard]] double srgb_decode(double encoded);
[[nodiscard]] double srgb_encode(double linear);

/// Linear light of each 8-bit sRGB code, rounded once from double precision.
[[nodiscard]] const std::array<float, 256>& srgb8_to_linear();

/// The 8-bit sRGB code nearest to `linear` on the encoded scale, exactly; NaN gives 0.
[[nodiscard]] std::uint8_t linear_to_srgb8(float linear);

/// IEEE 754 binary16. To float: exact. From float: to nearest, ties to even; NaN keeps its top
/// bits.
[[nodiscard]] float half_to_float(std::uint16_t half);
[[nodiscard]] std::uint16_t float_to_half(float value);

/// The unsigned small floats of `rg11b10-float`: 5 exponent bits and 6 or 5 mantissa bits.
/// From float: to nearest, ties to even; negative gives 0; finite values beyond the range give the
/// greatest finite value (Khronos Data Format 1.3, sections 10.3 and 10.4).
[[nodiscard]] float small_float_to_float(std::uint32_t bits, int mantissa_bits);
[[nodiscard]] std::uint32_t float_to_small_float(float value, int mantissa_bits);

/// `rgb9e5-float`: three 9-bit mantissas and a common exponent of bias 15
/// (Khronos Data Format 1.3; encoding after the OpenGL extension EXT_texture_shared_exponent).
[[nodiscard]] std::array<float, 3> rgb9e5_to_float(std::uint32_t bits);
[[nodiscard]] std::uint32_t float_to_rgb9e5(float red, float green, float blue);

}  // namespace yl
