// Decoders of single blocks: each writes 4 x 4 texels whose rows begin `stride` bytes apart.
#pragma once

#include <cstddef>

namespace yl::bc {

// RGBA, 8 bits each.
void decode_bc1(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_bc1a(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_bc2(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_bc3(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_bc7(const std::byte* block, std::byte* texels, std::size_t stride);

// One or two channels of 8 bits.
void decode_bc4(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_bc4_snorm(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_bc5(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_bc5_snorm(const std::byte* block, std::byte* texels, std::size_t stride);

// RGBA, half floats.
void decode_bc6h_ufloat(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_bc6h_sfloat(const std::byte* block, std::byte* texels, std::size_t stride);

// By vectors; the plain ones above are their twins.
void decode_bc3_row(const std::byte* blocks, std::size_t count, std::byte* texels,
                    std::size_t stride);
void decode_bc4_row(const std::byte* blocks, std::size_t count, std::byte* texels,
                    std::size_t stride);
void decode_bc4_snorm_row(const std::byte* blocks, std::size_t count, std::byte* texels,
                          std::size_t stride);
void decode_bc5_row(const std::byte* blocks, std::size_t count, std::byte* texels,
                    std::size_t stride);
void decode_bc5_snorm_row(const std::byte* blocks, std::size_t count, std::byte* texels,
                          std::size_t stride);

}  // namespace yl::bc
