// Decoder of ASTC (Khronos Data Format Specification 1.3, chapter 23).
#pragma once

#include <cstddef>

#include "block/astc/footprint_tables.hpp"

namespace yl::astc {

/// A row of blocks to RGBA of 8 bits, which are the upper ones of the 16 that the standard mixes.
/// Reserved blocks are magenta, and so are partitions of high dynamic range.
void decode_row(const FootprintTables& tables, const std::byte* blocks, std::size_t count,
                std::byte* texels, std::size_t stride);
/// In sRGB, ends are widened to 16 bits in another way.
void decode_row_srgb(const FootprintTables& tables, const std::byte* blocks, std::size_t count,
                     std::byte* texels, std::size_t stride);

/// To RGBA of half floats.
void decode_row_hdr(const FootprintTables& tables, const std::byte* blocks, std::size_t count,
                    std::byte* texels, std::size_t stride);

}  // namespace yl::astc
