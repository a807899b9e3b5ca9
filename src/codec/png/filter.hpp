// PNG's row filters (ISO/IEC 15948, section 9), undone and applied.
#pragma once

#include "codec/png/chunks.hpp"

namespace yl::png {

/// The filter type stored before a row. Fails for numbers that PNG has not; `offset` is for the error.
[[nodiscard]] Result<RowFilter> row_filter(std::byte stored, std::uint64_t row, std::size_t offset);

/// Undoes a row's filter, from byte `begin` on, where a pixel begins. `filtered` and `row` have the
/// same length; `above` is the finished row over it, or zeros. `row` may lie over `filtered` as
/// long as it begins at least a byte earlier.
void undo_filter(RowFilter filter, ByteSpan filtered, const std::byte* above, std::byte* row,
                 std::size_t distance, std::size_t begin = 0);

/// Applies a filter to the bytes [begin, end) of `row`, whose neighbour above is `above`.
void apply_filter(RowFilter filter, ByteSpan row, const std::byte* above, std::byte* filtered,
                  std::size_t distance, std::size_t begin, std::size_t end);

/// For each filter, how rough those bytes would be: the sum of the filtered bytes as signed
/// distances from 0, which is small where the compressor will do well (section 12.8).
using FilterCosts = std::array<std::uint64_t, 5>;
[[nodiscard]] FilterCosts rate_filters(ByteSpan row, const std::byte* above, std::size_t distance,
                                       std::size_t begin, std::size_t end);

// The same for whole rows, faster.
void undo_filter_simd(RowFilter filter, ByteSpan filtered, const std::byte* above, std::byte* row,
                      std::size_t distance);
void apply_filter_simd(RowFilter filter, ByteSpan row, const std::byte* above, std::byte* filtered,
                       std::size_t distance);
[[nodiscard]] FilterCosts rate_filters_simd(ByteSpan row, const std::byte* above,
                                            std::size_t distance);

}  // namespace yl::png
