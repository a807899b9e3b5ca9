// A plain decoder of ASTC blocks, written from the text of the Khronos Data Format Specification 1.3,
// chapter 23, one bit and one texel at a time.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <vector>

namespace support {

enum class AstcProfile { ldr, ldr_srgb, hdr };

/// RGBA of each texel: the upper 8 of 16 bits, or half floats.
[[nodiscard]] std::vector<std::array<std::uint16_t, 4>> reference_astc(const std::byte* block,
                                                                       int width, int height,
                                                                       AstcProfile profile);

}  // namespace support
