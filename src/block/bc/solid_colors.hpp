// The pairs of codes whose blend of two thirds and one third comes nearest to each value of 8 bits:
// with them a block of one colour is as good as BC1 can make it.
#pragma once

#include <array>
#include <cstdint>

namespace yl::bc {

/// First code in bits 0 to 7, second one above.
using SolidPairs = std::array<std::int32_t, 256>;

[[nodiscard]] constexpr SolidPairs solid_pairs(int bits) {
    SolidPairs pairs{};
    std::array<int, 256> best{};
    best.fill(1 << 20);
    const auto widened = [bits](int code) { return code << (8 - bits) | code >> (2 * bits - 8); };
    const int reach = (1 << (7 - bits)) + 1;  // values lie no further from a blend
    for (int a = 0; a < 1 << bits; ++a)
        for (int b = 0; b < 1 << bits; ++b) {
            // three times the blend; among equals, ends that lie close together
            const int blend = 2 * widened(a) + widened(b);
            const int apart =
                widened(a) > widened(b) ? widened(a) - widened(b) : widened(b) - widened(a);
            for (int value = blend / 3 - reach < 0 ? 0 : blend / 3 - reach;
                 value < 256 && value <= blend / 3 + reach; ++value) {
                const int off = 3 * value > blend ? 3 * value - blend : blend - 3 * value;
                const int cost = off * 256 + apart;
                if (cost < best[static_cast<std::size_t>(value)]) {
                    best[static_cast<std::size_t>(value)] = cost;
                    pairs[static_cast<std::size_t>(value)] = a | b << 8;
                }
            }
        }
    return pairs;
}

inline constexpr SolidPairs solid_of_5_bits = solid_pairs(5);
inline constexpr SolidPairs solid_of_6_bits = solid_pairs(6);

}  // namespace yl::bc
