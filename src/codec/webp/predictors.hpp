// The 14 ways to predict a pixel from its neighbours (RFC 9649, section 4.1).
#pragma once

#include <algorithm>
#include <cstdint>
#include <cstdlib>

namespace yl::webp {

using Pixel = std::uint32_t;  ///< alpha (highest), red, green, blue

constexpr Pixel opaque_black = 0xFF000000U;
constexpr Pixel alpha_green = 0xFF00FF00U, red_blue = 0x00FF00FFU;
constexpr unsigned predictor_count = 14;

/// Channel by channel, without carries.
constexpr Pixel sum(Pixel a, Pixel b) {
    return (((a & alpha_green) + (b & alpha_green)) & alpha_green) |
           (((a & red_blue) + (b & red_blue)) & red_blue);
}
constexpr Pixel difference(Pixel a, Pixel b) {
    return (((a | ~alpha_green) - (b & alpha_green)) & alpha_green) |
           (((a | ~red_blue) - (b & red_blue)) & red_blue);
}
constexpr Pixel average(Pixel a, Pixel b) {
    return (((a ^ b) & 0xFEFEFEFEU) >> 1U) + (a & b);
}
constexpr int channel(Pixel pixel, unsigned shift) {
    return static_cast<int>(pixel >> shift & 255U);
}

template <class Function>
Pixel each_channel(Function&& value) {
    Pixel result = 0;
    for (unsigned shift = 0; shift < 32; shift += 8)
        result |= static_cast<Pixel>(std::clamp(value(shift), 0, 255)) << shift;
    return result;
}

/// The neighbour that is nearer to what continues both gradients.
inline Pixel nearer(Pixel left, Pixel top, Pixel top_left) {
    int to_left = 0, to_top = 0;
    for (unsigned shift = 0; shift < 32; shift += 8) {
        to_left += std::abs(channel(top, shift) - channel(top_left, shift));
        to_top += std::abs(channel(left, shift) - channel(top_left, shift));
    }
    return to_left < to_top ? left : top;
}

inline Pixel gradient(Pixel left, Pixel top, Pixel top_left) {
    return each_channel([&](unsigned shift) {
        return channel(left, shift) + channel(top, shift) - channel(top_left, shift);
    });
}

inline Pixel half_gradient(Pixel left, Pixel top, Pixel top_left) {
    const Pixel mean = average(left, top);
    return each_channel([&](unsigned shift) {
        const int value = channel(mean, shift);
        return value + (value - channel(top_left, shift)) / 2;
    });
}

/// `above` points at the pixel above, between its neighbours.
inline Pixel prediction(unsigned mode, Pixel left, const Pixel* above) {
    const Pixel top = above[0], top_left = above[-1], top_right = above[1];
    switch (mode) {
        case 1:
            return left;
        case 2:
            return top;
        case 3:
            return top_right;
        case 4:
            return top_left;
        case 5:
            return average(average(left, top_right), top);
        case 6:
            return average(left, top_left);
        case 7:
            return average(left, top);
        case 8:
            return average(top_left, top);
        case 9:
            return average(top, top_right);
        case 10:
            return average(average(left, top_left), average(top, top_right));
        case 11:
            return nearer(left, top, top_left);
        case 12:
            return gradient(left, top, top_left);
        case 13:
            return half_gradient(left, top, top_left);
        default:
            return opaque_black;
    }
}

/// What a channel's signed byte lets expect of another; multipliers are in units of a 32nd.
constexpr std::uint32_t share(Pixel multiplier, Pixel value) {
    return static_cast<std::uint32_t>(
        static_cast<std::int8_t>(static_cast<std::uint8_t>(multiplier)) *
            static_cast<std::int8_t>(static_cast<std::uint8_t>(value)) >>
        5);
}

}  // namespace yl::webp
