// WebP files written and read by the general-purpose WebP library, as the reference.
#pragma once

#include <cstddef>
#include <cstdint>
#include <span>
#include <vector>

namespace support {

struct WebpKind {
    int width = 1, height = 1;
    bool has_alpha = false;
    bool is_lossless = false;
    int method = 4;  ///< 0 to 6
    float quality = 75;
    bool is_exact = true;  ///< colours of transparent pixels are kept
    int near_lossless = 100;
    // Of lossy files.
    int segments = 4, partitions = 0;
    int filter_strength = 60, filter_sharpness = 0;
    bool has_strong_filter = true;
    int alpha_quality = 100, alpha_compression = 1, alpha_filtering = 1;
};

/// `pixels`: red, green, blue, alpha.
[[nodiscard]] std::vector<std::byte> reference_webp(const WebpKind& kind,
                                                    std::span<const std::byte> pixels);

/// Four bytes for each pixel; empty if the library refuses the file.
[[nodiscard]] std::vector<std::byte> read_reference_webp(std::span<const std::byte> file);

struct WebpFrame {
    int x = 0, y = 0;  ///< even
    int milliseconds = 0;
    bool is_cleared = false, replaces = false;
    std::vector<std::byte> file = {};  ///< a picture of its own
};

/// An animation on a canvas of this size.
[[nodiscard]] std::vector<std::byte> reference_webp_animation(int width, int height,
                                                              std::span<const WebpFrame> frames,
                                                              int plays);

/// The canvas after each frame, four bytes for each pixel, as the library draws it.
[[nodiscard]] std::vector<std::vector<std::byte>> read_reference_animation(
    std::span<const std::byte> file);

/// The file with a chunk more ("ICCP", "EXIF").
[[nodiscard]] std::vector<std::byte> with_webp_chunk(std::span<const std::byte> file,
                                                     const char* name,
                                                     std::span<const std::byte> content);

}  // namespace support
