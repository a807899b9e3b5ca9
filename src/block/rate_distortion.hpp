// Blocks chosen so that general-purpose compressors pack them better.
#pragma once

#include "block/source_blocks.hpp"

namespace yl {

/// Rows of blocks that are worked on as one; what came before them is not looked at, so that the
/// result does not depend on threads.
inline constexpr std::size_t rate_distortion_rows = 16;

struct BlockRows {
    std::uint32_t first = 0, count = 0;
};

/// Replaces blocks, or parts of them, by what occurred shortly before, wherever the squared error
/// that this adds is worth less than the bits that it saves (`options.rate_distortion`).
void optimise_rate_distortion(const SourceBlocks& source, const BlockRows& rows,
                              const FormatInfo& format, const BlockOptions& options,
                              std::byte* blocks);

}  // namespace yl
