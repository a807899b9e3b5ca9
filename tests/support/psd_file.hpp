// PSD files put together section by section.
#pragma once

#include <cstddef>
#include <cstdint>
#include <vector>

namespace support {

struct PsdKind {
    bool is_large = false;
    std::uint32_t width = 1, height = 1, channels = 3;
    std::uint32_t bits = 8;
    std::uint16_t mode = 3;     ///< 0 bitmap, 1 gray, 2 palette, 3 RGB, 4 CMYK, 8 duotone
    std::uint16_t packing = 0;  ///< 0 none, 1 PackBits, 2 zlib, 3 zlib of differences
    int layers = 0;             ///< below 0: the first extra channel is alpha
    int clear_index = -1;       ///< of the palette
    bool has_merged = true;
    std::vector<std::byte> profile = {};
};

/// `samples`: channel by channel, row by row; of a bitmap 0 or 1, of 32 bits the bits of floats. The
/// palette's colour i is {i, 255 - i, i / 2}.
[[nodiscard]] std::vector<std::byte> psd_file(const PsdKind& kind,
                                              const std::vector<std::uint32_t>& samples);

}  // namespace support
