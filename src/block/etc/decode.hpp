// Decoders of single blocks of ETC2 and EAC: each writes 4 x 4 texels whose rows begin `stride` bytes
// apart.
#pragma once

#include <cstddef>

namespace yl::etc {

// RGBA, 8 bits each.
void decode_rgb(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_rgb_cut_out(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_rgba(const std::byte* block, std::byte* texels, std::size_t stride);

// One or two channels of 16 bits, the nearest to the 11 bits of the standard.
void decode_r11(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_r11_snorm(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_rg11(const std::byte* block, std::byte* texels, std::size_t stride);
void decode_rg11_snorm(const std::byte* block, std::byte* texels, std::size_t stride);

}  // namespace yl::etc
