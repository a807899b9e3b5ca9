// DWAA and DWAB: colours by cosine transforms of 8 x 8 blocks, alpha by run lengths, all else by zlib
// (OpenEXR, "DWA compression", as its header and the order of its data are laid out there).
#pragma once

#include "codec/exr/chunk.hpp"

namespace yl::exr {

/// The samples of a chunk, channel by channel.
[[nodiscard]] Result<std::vector<std::byte>> unpack_dwa(ByteSpan packed, const Header& h,
                                                        const Area& area);

}  // namespace yl::exr
