// Ends of a partition's colours out of the values of an ASTC block, from the text of the Khronos Data
// Format Specification 1.3, section 23.14.
#pragma once

#include <array>
#include <vector>

namespace support::astc {

using Values = std::vector<int>;

struct Ends {
    std::array<int, 4> e0{}, e1{};
    bool rgb_hdr = false, alpha_hdr = false;
};

[[nodiscard]] constexpr int bit_of(int value, int at) {
    return value >> at & 1;
}

/// Of a partition in this mode of the standard, from 0 to 15, by eight values.
[[nodiscard]] Ends ends_of(int mode, Values v);

}  // namespace support::astc
