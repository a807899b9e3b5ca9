// What comes before a block's numbers.
//
//   one partition    mode (11)  count - 1 (2)  endpoint mode (4)  endpoints ...
//   more             mode (11)  count - 1 (2)  seed (10)  endpoint modes (6)  endpoints ...
//   from the end     ... channel of the second plane (2)  rest of endpoint modes  weights, reversed
//
// The six bits of endpoint modes are one mode for all behind two zeros, or a base class and the
// first four bits of each partition's class and mode (Khronos Data Format Specification 1.3, sections
// 23.11 and 23.19).
#pragma once

#include <array>
#include <cstdint>
#include <optional>

#include "block/astc/block_bits.hpp"
#include "block/astc/block_mode.hpp"

namespace yl::astc {

inline constexpr unsigned most_partitions = 4;

/// How many numbers an endpoint mode has.
[[nodiscard]] constexpr unsigned numbers_of(unsigned endpoint_mode) {
    return 2 * (endpoint_mode / 4 + 1);
}

struct BlockHead {
    BlockMode mode;
    unsigned partitions = 1;
    unsigned seed = 0;  ///< of the partitions
    std::array<std::uint8_t, most_partitions> endpoint_modes{};
    unsigned plane_channel = 0;  ///< that has the second plane
    unsigned color_range = 0, color_begin = 0, color_count = 0;
};

/// The range that `count` numbers of endpoints have in so many bits: the greatest that fits.
[[nodiscard]] std::optional<unsigned> color_range(unsigned count, unsigned bits);

/// None for reserved blocks, and for those of one colour.
[[nodiscard]] std::optional<BlockHead> read_head(const BlockBits& block, Footprint footprint);

/// Writes the head of a block, and sets where the endpoints begin and their range. None if they have
/// no room.
[[nodiscard]] std::optional<BlockBits> write_head(BlockHead& head, unsigned mode_bits);

}  // namespace yl::astc
