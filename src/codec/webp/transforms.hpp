// What lossless WebP does to pixels before it codes them (RFC 9649, section 3.4), undone.
//
// A pixel is a number:   31    24 23    16 15     8 7      0
//                        | alpha |   red  | green  |  blue |
#pragma once

#include <cstdint>
#include <span>
#include <vector>

namespace yl::webp {

enum class TransformKind : std::uint8_t {
    predictor = 0,       ///< what neighbours let expect is taken off
    color = 1,           ///< what green lets expect of red and blue, and red of blue
    subtract_green = 2,  ///< of red and blue
    palette = 3,         ///< indices, several in a pixel where there are few
};

struct Transform {
    TransformKind kind = TransformKind::predictor;
    unsigned bits = 0;        ///< of a block's side; of the palette: log2 of indices in a pixel
    std::uint32_t width = 0;  ///< of the pixels that it gives back
    std::vector<std::uint32_t> data{};   ///< one for each block; the palette's colours
    std::vector<std::uint32_t> above{};  ///< of the predictor: the row before
};

/// How many blocks of 2^bits cover `size`.
[[nodiscard]] constexpr std::uint32_t blocks_over(std::uint32_t size, unsigned bits) {
    return (size + (1U << bits) - 1) >> bits;
}

/// Undoes a transform of row `y`; rows come in order. A palette's row comes packed in `row`, which
/// has room for all pixels.
void undo_transform(Transform& transform, std::uint32_t y, std::span<std::uint32_t> row);

}  // namespace yl::webp
