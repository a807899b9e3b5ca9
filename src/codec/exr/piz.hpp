// PIZ: a table of the values in use, a two-dimensional Haar wavelet, and Huffman codes
// ("Technical Introduction to OpenEXR", section on data compression).
#pragma once

#include <vector>

#include "base/bytes.hpp"

namespace yl::exr {

/// The 16-bit words of one channel in a chunk: `columns` x `rows` samples of `words` each.
struct PizChannel {
    std::size_t columns = 0, rows = 0, words = 1;

    [[nodiscard]] std::size_t size() const { return columns * rows * words; }
};

/// Undoes its Huffman codes alone, which give `size` numbers.
[[nodiscard]] Result<std::vector<std::uint16_t>> unpack_huffman(ByteSpan packed, std::size_t size);

/// Undoes PIZ: gives the words of all channels, one channel after the other, each row by row.
[[nodiscard]] Result<std::vector<std::uint16_t>> unpack_piz(
    ByteSpan packed, const std::vector<PizChannel>& channels);

}  // namespace yl::exr
