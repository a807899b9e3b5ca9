// A block whose choices are made, and its 128 bits.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>

#include "block/astc/block_head.hpp"
#include "block/astc/endpoints.hpp"

namespace yl::astc {

struct SettledBlock {
    unsigned mode_bits = 0;  ///< of `all_block_modes`
    unsigned partitions = 1;
    unsigned seed = 0;
    EndpointMode endpoint_mode = EndpointMode::rgb;  ///< of all partitions: one without offsets
    unsigned plane_channel = 0;
    /// Of each partition, as values that numbers of its range have: red, green, blue and alpha.
    std::array<std::array<std::uint8_t, 4>, most_partitions> low{}, high{};
    std::array<std::array<std::uint8_t, 8>, most_partitions>
        hdr{};  ///< instead of colours, where these are
    std::array<std::uint8_t, most_partitions>
        scale{};  ///< of modes whose low end is a share of the high
    /// The weights' places in rising order; those of two planes take turns.
    std::array<std::uint8_t, most_weights> ranks{};
};

/// The range of the endpoints of such a block; none if they have no room.
[[nodiscard]] std::optional<unsigned> color_range_of(const BlockMode& mode, unsigned partitions,
                                                     EndpointMode endpoint_mode);

/// Where a first end is the brighter one, which would mean another kind of colours, both ends and all
/// weights change places.
void pack(const SettledBlock& settled, std::byte* block);

/// A block of one colour.
void pack_single_color(const std::array<std::uint8_t, 4>& rgba, std::byte* block);
/// The same of half floats.
void pack_single_light(const std::array<std::uint16_t, 4>& rgba, std::byte* block);

}  // namespace yl::astc
