// Strips and tiles unpacked, and their predictors undone.
#pragma once

#include <yl/result.hpp>
#include "base/bytes.hpp"

namespace yl::tiff {

enum class Compression : std::uint16_t {
    none = 1,
    lzw = 5,
    deflate = 8,
    run_lengths = 32773,  ///< PackBits, section 9
    old_deflate = 32946,
};

/// Fills `target`; what is packed may hold more. Fails with `ErrorKind::malformed` where it ends
/// early, with how much there was.
[[nodiscard]] Status unpack(Compression compression, ByteSpan packed, std::span<std::byte> target);

/// Bytes of a row that were stored as differences to the sample `channels` before (section 14);
/// numbers of 1, 2, 4 or 8 bytes in the order of `is_big_endian`.
void add_differences(std::span<std::byte> row, std::size_t channels, std::size_t bytes,
                     bool is_big_endian);

/// Floating point whose bytes lie in planes, the most significant first, as differences (Adobe
/// Photoshop TIFF Technical Note 3). `row` becomes numbers in the order of `is_big_endian`.
void join_float_planes(std::span<std::byte> row, std::size_t channels, std::size_t bytes,
                       bool is_big_endian);

}  // namespace yl::tiff
