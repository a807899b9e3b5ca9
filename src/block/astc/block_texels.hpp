// What a block says of its texels, before they are mixed.
#pragma once

#include <array>
#include <cstdint>

#include "block/astc/block_head.hpp"
#include "block/astc/endpoints.hpp"
#include "block/astc/footprint_tables.hpp"

namespace yl::astc {

/// Weights of texels and the ends between which they lie.
struct BlockTexels {
    std::array<Endpoints, most_partitions> ends;
    unsigned partition_count = 1;
    const std::uint8_t* partitions = nullptr;  ///< of each texel; null where there is one
    unsigned plane_channel = 4;                ///< that has the second weights; 4: none
    alignas(16) std::array<std::uint8_t, most_texels> weights;  ///< 0 .. 64
    alignas(16) std::array<std::uint8_t, most_texels> second_weights;
};

/// Reads a block whose head is `head`.
void read_texels(const BlockBits& block, const BlockHead& head, const FootprintTables& tables,
                 BlockTexels& texels);

/// A block of one colour.
struct SingleColor {
    bool is_sound = false;
    bool is_hdr = false;  ///< half floats; else 16 bits from 0 to 1
    std::array<std::uint16_t, 4> color{};
};
[[nodiscard]] SingleColor read_single_color(const BlockBits& block);

/// Weights of texels from those of a grid, behind which a row and one weight more can be read.
void fill_in(const FootprintTables& tables, const BlockMode& mode, const std::uint8_t* grid,
             std::uint8_t* weights);

}  // namespace yl::astc
