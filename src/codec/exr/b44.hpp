// B44 and B44A: halves in blocks of 4 x 4, each in 14 bytes, or in 3 where all are equal ("Technical
// Introduction to OpenEXR", section on data compression).
#pragma once

#include "codec/exr/chunk.hpp"

namespace yl::exr {

/// The samples of a chunk, channel by channel.
[[nodiscard]] Result<std::vector<std::byte>> unpack_b44(ByteSpan packed, const Header& h,
                                                        const Area& area);

}  // namespace yl::exr
