// Pixels as prefix codes (RFC 9649, sections 5 and 6).
#pragma once

#include <cstdint>
#include <span>

#include "codec/webp/bit_writer.hpp"

namespace yl::webp {

struct EntropyEffort {
    unsigned depth = 16;       ///< places tried for each repeat
    bool tries_caches = true;  ///< else none is used
    unsigned max_groups = 1;   ///< of prefix codes, each for some of the picture's blocks
};

/// Writes an image: a picture's own pixels (`is_main`), or those that stand for blocks or colours.
void write_pixels(BitWriter& bits, std::span<const std::uint32_t> pixels, std::uint32_t width,
                  bool is_main, const EntropyEffort& effort);

}  // namespace yl::webp
