// Where the coefficients of a picture wait until all scans have been read.
#pragma once

#include <algorithm>
#include <span>

#include "codec/jpeg/frame.hpp"
#include "codec/jpeg/inverse_dct.hpp"

namespace yl::jpeg {

/// All coefficients of a picture, a row of units after the other, in the memory that the pixels
/// will take.
class CoefficientStore {
 public:
    explicit CoefficientStore(const Frame& frame) : frame_(frame) {}

    /// How much memory holds both these coefficients, at its end, and the rows of pixels that
    /// take their place from the beginning on. Once row u of the units is decoded, the pixels of u
    /// + 1 of them may be written while the coefficients of the rows behind it are still needed;
    /// what that takes grows or falls evenly with u, so the first row and the last but one decide.
    [[nodiscard]] std::size_t shared_bytes(std::size_t pixel_row_bytes) const {
        const std::size_t rows = frame_.units_y;
        const std::size_t row_bytes = frame_.row_blocks * sizeof(Block);
        const std::size_t unit_pixels = frame_.max_v * block_side * pixel_row_bytes;
        return std::max({frame_.height * pixel_row_bytes, rows * row_bytes,
                         (rows - 1) * row_bytes + unit_pixels,
                         row_bytes + (rows - 1) * unit_pixels}) +
               sizeof(Block);
    }

    /// Takes the end of `memory`, which is aligned, and clears it.
    void place(std::span<std::byte> memory) {
        const std::size_t blocks = frame_.units_y * frame_.row_blocks;
        const std::size_t first = memory.size() / sizeof(Block) - blocks;
        blocks_ = reinterpret_cast<Block*>(memory.data()) + first;
        std::fill_n(blocks_, blocks, Block{});
    }

    [[nodiscard]] Block* row(std::uint32_t unit_y) { return blocks_ + unit_y * frame_.row_blocks; }

 private:
    const Frame& frame_;
    Block* blocks_ = nullptr;
};

}  // namespace yl::jpeg
