// Endpoints of each mode (Khronos Data Format Specification 1.3, sections 23.12 and 23.13).
#pragma once

#include <array>
#include <cstdint>

namespace yl::astc {

/// Endpoint modes, as the standard numbers them.
enum class EndpointMode : std::uint8_t {
    luminance = 0,
    luminance_offset = 1,
    luminance_hdr_wide = 2,
    luminance_hdr_narrow = 3,
    luminance_alpha = 4,
    luminance_alpha_offset = 5,
    rgb_scale = 6,
    rgb_hdr_scale = 7,
    rgb = 8,
    rgb_offset = 9,
    rgb_scale_alpha = 10,
    rgb_hdr = 11,
    rgba = 12,
    rgba_offset = 13,
    rgb_hdr_alpha = 14,
    rgba_hdr = 15,
};

/// Whether the low end's colour is a share of the high end's.
[[nodiscard]] constexpr bool has_scale(EndpointMode mode) {
    return mode == EndpointMode::rgb_scale || mode == EndpointMode::rgb_scale_alpha;
}

/// Both ends of a line of colours. Numbers of 8 bits, or of 12 bits on a logarithmic scale.
struct Endpoints {
    std::array<int, 4> low{}, high{};
    bool is_hdr = false;         ///< red, green and blue have 12 bits
    bool has_hdr_alpha = false;  ///< so has alpha
};

/// From the 2 to 8 values of a mode.
[[nodiscard]] Endpoints decode_endpoints(EndpointMode mode, const std::uint8_t* values);

/// Whether red, green and blue are nearly logarithms of 12 bits.
[[nodiscard]] constexpr bool is_rgb_hdr(EndpointMode mode) {
    return mode == EndpointMode::rgb_hdr || mode == EndpointMode::rgb_hdr_alpha ||
           mode == EndpointMode::rgba_hdr;
}

/// The six values of colours of high dynamic range, and what they decode to.
struct HdrColors {
    std::array<std::uint8_t, 6> values{};
    Endpoints ends;
};

/// The values, out of those that a range has, which come nearest to both ends; `nearest` gives for each
/// of 0 .. 255 the range's nearest value.
[[nodiscard]] HdrColors encode_rgb_hdr(const std::array<float, 3>& low,
                                       const std::array<float, 3>& high, const float* nearest);

/// The two values of alpha of high dynamic range, and what they decode to.
struct HdrAlphas {
    std::array<std::uint8_t, 2> values{};
    int low = 0, high = 0;
};

/// Likewise.
[[nodiscard]] HdrAlphas encode_alpha_hdr(float low, float high, const float* nearest);

}  // namespace yl::astc
