// TIFF files written and read by the general-purpose library.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

namespace support {

/// How a file is written. Samples are in `bits` each, given as numbers of 64 bits.
struct TiffKind {
    std::uint32_t width = 1, height = 1, channels = 1, bits = 8;
    std::uint16_t format = 1;       ///< 1 whole, 2 signed, 3 floating
    std::uint16_t photometric = 1;  ///< as the standard counts
    std::uint16_t compression = 1;
    std::uint16_t predictor = 1;
    bool is_planar = false;
    bool big_endian = false, big_tiff = false, reverses_bits = false;
    std::uint32_t tile_width = 0, tile_height = 0;  ///< 0: strips
    std::uint32_t rows_per_strip = 7;
    std::vector<std::uint16_t> extra = {};    ///< kinds of extra samples
    std::vector<std::uint16_t> palette = {};  ///< all reds, all greens, all blues
    std::uint16_t orientation = 1;
    std::vector<std::byte> profile = {};
    std::vector<float> white = {}, primaries = {};          ///< x and y of each
    std::vector<std::vector<std::uint16_t>> transfer = {};  ///< of one channel, or of three
    std::uint16_t pages = 1;
};

/// `samples[(y * width + x) * channels + c]`, for each page the same.
[[nodiscard]] std::vector<std::byte> reference_tiff(const TiffKind& kind,
                                                    std::span<const std::uint64_t> samples);

/// The samples of the first page of a file whose pixels are stored together, as numbers.
struct ReadTiff {
    TiffKind kind = {};
    std::vector<std::uint64_t> samples = {};
};
[[nodiscard]] ReadTiff read_by_reference(std::span<const std::byte> file);

/// Subsampled YCbCr of 8 bits; `units` as the standard lays them out.
[[nodiscard]] std::vector<std::byte> reference_ycbcr_tiff(std::uint32_t width, std::uint32_t height,
                                                          std::uint16_t across, std::uint16_t down,
                                                          std::span<const std::byte> units);

}  // namespace support
