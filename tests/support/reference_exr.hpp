// OpenEXR files written and read by the general-purpose OpenEXR library, as the reference.
#pragma once

#include <array>
#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

namespace support {

struct ReferenceExr {
    int compression = 0;  ///< the file's number: 0 none, 1 RLE, 2 ZIPS, 3 ZIP, 4 PIZ, 5 PXR24 ...
    std::string channels = "RGB";            ///< one letter each
    int type = 1;                            ///< 0 uint, 1 half, 2 float
    std::array<int, 4> data = {0, 0, 9, 6};  ///< x0, y0, x1, y1
    std::array<int, 4> display = {0, 0, 9, 6};
    int tile = 0;              ///< side of a tile; 0: scan lines
    bool decreasing = false;   ///< rows stored from the bottom
    bool many_values = false;  ///< a ramp through all halves instead of some 60 numbers
};

/// The value of a channel at a pixel of such a file; halves hold it exactly.
[[nodiscard]] float exr_value(char channel, int x, int y, bool many_values = false);

[[nodiscard]] std::vector<std::byte> write_reference_exr(const ReferenceExr& kind);

/// Luminance and chroma, subsampled, of a smooth picture whose RGB is `smooth_value`.
[[nodiscard]] std::vector<std::byte> write_luminance_chroma_exr(int width, int height);
[[nodiscard]] float smooth_value(char channel, int x, int y);

/// Red, green, blue and alpha of each pixel of the data window.
[[nodiscard]] std::vector<float> read_reference_exr(std::span<const std::byte> file);

}  // namespace support
