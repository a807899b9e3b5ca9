// JPEG files written and read by the general-purpose JPEG library, as the reference.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

namespace support {

struct ReferenceJpeg {
    std::uint32_t width = 1;
    std::uint32_t height = 1;
    int components = 3;   ///< 1 gray, 3 RGB, 4 CMYK
    bool convert = true;  ///< RGB to YCbCr, CMYK to YCCK
    std::array<int, 2> luma = {
        1, 1};  ///< sampling factors of the first component; the others have 1, 1
    bool progressive = false;
    bool separate_scans = false;  ///< sequential, one scan for each component
    unsigned restart_rows = 0;
    unsigned restart_blocks = 0;
    int quality = 90;
    double amplitude = 90;   ///< of the waves; beyond 128 they are cut off
    bool optimized = false;  ///< Huffman tables of its own
    std::string exif = {};   ///< a segment APP1
    std::vector<std::byte> profile = {};
};

/// A smooth picture with some noise, coded so.
[[nodiscard]] std::vector<std::byte> write_reference_jpeg(const ReferenceJpeg& kind);

/// Decoded by the accurate integer transform and smooth upsampling: gray, RGB, or CMYK as stored.
[[nodiscard]] std::vector<int> read_reference_jpeg(std::span<const std::byte> file);

}  // namespace support
