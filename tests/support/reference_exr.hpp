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
    int tile = 0;                            ///< side of a tile; 0: scan lines
    bool decreasing = false;                 ///< rows stored from the bottom
    std::vector<float> chromaticities = {};  ///< x and y of red, green, blue and white
    bool many_values = false;  ///< a ramp through all halves instead of some 60 numbers
};

/// One part of a file with several.
struct ReferencePart {
    std::string name;
    ReferenceExr kind;
};
[[nodiscard]] std::vector<std::byte> write_reference_parts(const std::vector<ReferencePart>& parts);

/// Tiles of 16 with levels of both axes together, or of each; a level's samples are those of
/// `exr_value`, at places of its own, plus 64 times the level.
[[nodiscard]] std::vector<std::byte> write_reference_levels(int width, int height, bool each_axis,
                                                            bool rounds_up);

/// Samples of smooth pictures, whatever the channels' names; what the library reads of them again.
struct LossyExr {
    std::vector<std::byte> file;
    std::vector<std::vector<float>> channels;  ///< in the order of `names`
};
struct LossyChannel {
    std::string name;
    int type = 1;  ///< 0 uint, 1 half, 2 float
    bool is_perceptual = false;
    int step = 1;  ///< one sample for so many pixels, both ways
};
[[nodiscard]] LossyExr write_lossy_exr(int compression, int width, int height,
                                       const std::vector<LossyChannel>& channels,
                                       std::uint32_t seed, int tile = 0);

/// The value of a channel at a pixel of such a file; halves hold it exactly.
[[nodiscard]] float exr_value(char channel, int x, int y, bool many_values = false);

[[nodiscard]] std::vector<std::byte> write_reference_exr(const ReferenceExr& kind);

/// Luminance and chroma, subsampled, of a smooth picture whose RGB is `smooth_value`.
[[nodiscard]] std::vector<std::byte> write_luminance_chroma_exr(int width, int height);
[[nodiscard]] float smooth_value(char channel, int x, int y);

/// Red, green, blue and alpha of each pixel of the data window.
[[nodiscard]] std::vector<float> read_reference_exr(std::span<const std::byte> file);

}  // namespace support
