// GIF files written by the general-purpose library.
#pragma once

#include <array>
#include <cstddef>
#include <vector>

namespace support {

struct GifFrame {
    int x = 0, y = 0, width = 1, height = 1;
    bool is_interlaced = false, has_own_colors = false;
    int disposal = 0;      ///< 0 to 3, as the standard counts
    int transparent = -1;  ///< -1: none
    int delay = 0;
    std::vector<std::byte> indices = {};
};

struct GifKind {
    int width = 1, height = 1, bits = 8;
    bool repeats_for_ever = false;
    std::vector<GifFrame> frames = {};
};

/// The colour of an index in the palette that all frames share, or in one of their own.
[[nodiscard]] std::array<int, 3> color_of(int index, bool own);

[[nodiscard]] std::vector<std::byte> reference_gif(const GifKind& kind);

}  // namespace support
