// A mip chain none of whose large levels is ever in memory.
#pragma once

#include <functional>
#include <span>

#include <yl/mip.hpp>
#include <yl/texture.hpp>
#include "resample/row_source.hpp"

namespace yl {

/// Why a chain with these options cannot be made row by row; empty where it can.
[[nodiscard]] std::string_view needs_whole_levels(const MipOptions& options);

/// Makes the levels of a 2D texture of such a shape: the rows of level 0 flow from `top`, to the last
/// one, and those of each level from 1 on into its sink. Bytes are those of `build_mips`. Ends early
/// when `status` gives an error, which it returns.
[[nodiscard]] Status flow_levels(const TextureShape& shape, const TextureMetadata& metadata,
                                 RowFlow& top, std::span<RowSink* const> sinks,
                                 const MipOptions& options, const std::function<Status()>& status);

}  // namespace yl
