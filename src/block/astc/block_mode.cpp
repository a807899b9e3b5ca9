// Bits of a block mode in two dimensions, the highest first; R of three bits is the range of weights
// with H, D says that there are two planes:
//
//   10 9  8 7  6 5  4  3 2  1 0     width    height
//    D H   B    A   R0 0 0  R2 R1   B + 4    A + 2
//    D H   B    A   R0 0 1  R2 R1   B + 8    A + 2
//    D H   B    A   R0 1 0  R2 R1   A + 2    B + 8
//    D H  0 B   A   R0 1 1  R2 R1   A + 2    B + 6
//    D H  1 B   A   R0 1 1  R2 R1   B + 2    A + 2
//    D H  0 0   A   R0 R2 R1 0 0    12       A + 2
//    D H  0 1   A   R0 R2 R1 0 0    A + 2    12
//    D H  1 1  0 0  R0 R2 R1 0 0    6        10
//    D H  1 1  0 1  R0 R2 R1 0 0    10       6
//     B   1 0   A   R0 R2 R1 0 0    A + 6    B + 6    D = H = 0
#include "block/astc/block_mode.hpp"

#include "block/astc/integer_sequence.hpp"

namespace yl::astc {
namespace {

constexpr unsigned least_weight_bits = 24, most_weight_bits = 96;

struct Grid {
    unsigned width = 0, height = 0;
    unsigned range = 0;  // R
    bool is_high = false, has_two_planes = false;
};

Grid grid_of(unsigned bits) {
    const unsigned a = bits >> 5 & 3U, b = bits >> 7 & 3U;
    Grid grid{.is_high = (bits >> 9 & 1U) != 0, .has_two_planes = (bits >> 10 & 1U) != 0};
    if ((bits & 3U) != 0) {
        grid.range = (bits >> 4 & 1U) | (bits & 3U) << 1;
        switch (bits >> 2 & 3U) {
            case 0:
                grid.width = b + 4, grid.height = a + 2;
                break;
            case 1:
                grid.width = b + 8, grid.height = a + 2;
                break;
            case 2:
                grid.width = a + 2, grid.height = b + 8;
                break;
            default:
                grid.width = b < 2 ? a + 2 : (b & 1U) + 2;
                grid.height = b < 2 ? b + 6 : a + 2;
        }
        return grid;
    }
    grid.range = (bits >> 4 & 1U) | (bits >> 2 & 3U) << 1;
    switch (b) {
        case 0:
            grid.width = 12, grid.height = a + 2;
            break;
        case 1:
            grid.width = a + 2, grid.height = 12;
            break;
        case 2:
            grid.width = a + 6, grid.height = (bits >> 9 & 3U) + 6;
            grid.is_high = grid.has_two_planes = false;
            break;
        default:
            if (a < 2)
                grid.width = a == 0 ? 6 : 10, grid.height = a == 0 ? 10 : 6;
    }
    return grid;
}

BlockMode block_mode(unsigned bits) {
    const Grid grid = grid_of(bits);
    if (grid.width == 0 || grid.range < 2)
        return {};
    const unsigned range = grid.range - 2 + (grid.is_high ? 6 : 0);
    const unsigned count = grid.width * grid.height * (grid.has_two_planes ? 2 : 1);
    if (count > most_weights)
        return {};
    const unsigned size = sequence_bits(range, count);
    if (size < least_weight_bits || size > most_weight_bits)
        return {};
    const auto byte = [](unsigned value) { return static_cast<std::uint8_t>(value); };
    return {byte(grid.width),    byte(grid.height), byte(range),
            grid.has_two_planes, byte(count),       byte(size)};
}

}  // namespace

const std::array<BlockMode, block_modes>& all_block_modes() {
    static const auto modes = [] {
        std::array<BlockMode, block_modes> table{};
        for (unsigned bits = 0; bits < block_modes; ++bits)
            table[bits] = block_mode(bits);
        return table;
    }();
    return modes;
}

}  // namespace yl::astc
