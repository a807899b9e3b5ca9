// The decoder of each block format.
#pragma once

#include <yl/format.hpp>
#include "block/bc/decode.hpp"

namespace yl {

/// Null for formats that have no blocks.
[[nodiscard]] bc::RowDecoder decoder_of(Format format);

}  // namespace yl
