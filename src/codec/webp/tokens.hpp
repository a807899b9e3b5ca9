// What pixels are written as: themselves, references to a cache of colours, and repeats of what was
// before (RFC 9649, section 5.2).
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace yl::webp {

constexpr std::uint32_t literal_symbols = 256, length_symbols = 24, distance_symbols = 40;
constexpr unsigned max_cache_bits = 10;

/// Codes of distances that mean a pixel near by: how far to the left, and how many rows up.
struct Nearby {
    std::int8_t left, up;
};
extern const std::array<Nearby, 120> nearby_pixels;

/// Where a colour lies in a cache of 2^bits.
constexpr std::uint32_t cache_index(std::uint32_t pixel, unsigned bits) {
    return (0x1E35A7BDU * pixel) >> (32 - bits);
}

/// A number of one and more, as the prefix that is coded, and bits after it.
struct Prefixed {
    std::uint32_t prefix, extra, extra_bits;
};
[[nodiscard]] Prefixed prefixed(std::uint32_t number);

struct Token {
    std::uint32_t at = 0;      ///< the pixel that it begins with
    std::uint32_t length = 0;  ///< of a repeat; 0: a pixel
    std::uint32_t value = 0;   ///< the pixel, its place in the cache, or the distance's code
    bool is_cached = false;
};

/// Pixels and repeats. `depth`: how many places are tried for each repeat.
[[nodiscard]] std::vector<Token> tokens_of(std::span<const std::uint32_t> pixels,
                                           std::uint32_t width, unsigned depth);

/// Puts references to a cache in the place of pixels that it holds.
void use_cache(std::vector<Token>& tokens, std::span<const std::uint32_t> pixels, unsigned bits);

}  // namespace yl::webp
