// LZW (Welch, "A Technique for High-Performance Data Compression", 1984) as TIFF and GIF have it.
#pragma once

#include "base/bytes.hpp"

namespace yl {

/// What sets the two apart. Codes have up to 12 bits.
struct LzwKind {
    unsigned literal_bits = 8;      ///< the first code after the literals clears the strings
    bool lowest_bit_first = false;  ///< of each byte
    bool grows_early = false;       ///< codes get longer one string before they have to
};

/// Unpacks until `target` is full or the stream ends; gives how many bytes there were.
[[nodiscard]] std::size_t unpack_lzw(ByteSpan packed, std::span<std::byte> target,
                                     const LzwKind& kind);

}  // namespace yl
