// PNG's row filters (ISO/IEC 15948, section 9), undone and applied.
#pragma once

#include "codec/png/chunks.hpp"

namespace yl::png {

/// Undoes a row's filter. `filtered` and `row` have the same length; `above` is the finished row
/// over it, or zeros. `row` may lie over `filtered` as long as it begins no later.
void undo_filter(RowFilter filter, ByteSpan filtered, const std::byte* above, std::byte* row,
                 std::size_t distance);

/// Applies a filter to `row`, whose neighbour above is `above`.
void apply_filter(RowFilter filter, ByteSpan row, const std::byte* above, std::byte* filtered,
                  std::size_t distance);

}  // namespace yl::png
