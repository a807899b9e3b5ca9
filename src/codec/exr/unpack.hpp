// The packed bytes of a chunk, as OpenEXR's RLE and ZIP write them.
#pragma once

#include <vector>

#include "base/bytes.hpp"

namespace yl::exr {

/// Each undoes one compression into exactly `size` bytes.
[[nodiscard]] Result<std::vector<std::byte>> unpack_rle(ByteSpan packed, std::size_t size);
[[nodiscard]] Result<std::vector<std::byte>> unpack_zip(ByteSpan packed, std::size_t size);

[[nodiscard]] Result<std::vector<std::byte>> pack_zip(ByteSpan raw, int effort);

}  // namespace yl::exr
