// PNG files written and read by the general-purpose PNG library, as the reference.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace support {

struct ReferencePng {
    std::uint32_t width = 1;
    std::uint32_t height = 1;
    int color_type = 0;  ///< PNG's number
    int bits = 8;        ///< of a sample
    bool interlaced = false;
    bool transparency = false;  ///< a chunk tRNS
    std::uint32_t seed = 1;
};

/// A file with random pixels of that kind, by all row filters.
[[nodiscard]] std::vector<std::byte> write_reference_png(const ReferencePng& kind);

struct ReferencePixels {
    std::uint32_t width = 0;
    std::uint32_t height = 0;
    std::uint32_t channels = 0;
    std::uint32_t bits = 0;
    std::vector<std::byte> bytes;  ///< rows, tightly packed; 16-bit samples in this machine's order
};

/// Reads a file with palettes and small depths expanded, and transparency made alpha.
[[nodiscard]] ReferencePixels read_reference_png(std::span<const std::byte> file);

}  // namespace support
