// Rows of numbers as they are stored, without any colour curve.
#pragma once

#include <fmt/format.h>

#include <vector>

#include <yl/image.hpp>
#include "base/parallel.hpp"
#include "pixel/rows.hpp"

namespace yl {

inline constexpr std::size_t edited_rows_at_least = 16;

/// The codec of a format's numbers: what the GPU would see if the format had no curve.
[[nodiscard]] inline RowCodec number_codec(Format format) {
    return row_codec(with_transfer(format, Transfer::linear).value_or(format), Transfer::linear);
}

/// Loads each row by the codec, calls `edit(rgba, y)` with its floats, and stores it again; rows at
/// the same time.
template <class Edit>
void edit_rows(ImageView image, const RowCodec& codec, const Edit& edit) {
    parallel_ranges(image.height, edited_rows_at_least, [&](std::size_t begin, std::size_t end) {
        std::vector<float> rgba(std::size_t{image.width} * 4);
        for (auto y = static_cast<std::uint32_t>(begin); y < end; ++y) {
            codec.load(image.row(y).data(), rgba.data(), image.width);
            edit(rgba, y);
            codec.store(rgba.data(), image.row(y).data(), image.width);
        }
    });
}

}  // namespace yl
