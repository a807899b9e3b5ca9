// What a reader may allocate for what a file claims.
#pragma once

#include <cstdint>

namespace yl {

/// Checked by every reader before it allocates. The defaults allow any 16,384 x 16,384 texture
/// with its full mip chain, in any format of the table.
struct ReadLimits {
    std::uint32_t greatest_side = 16384;                    ///< texels, for width, height and depth
    std::uint64_t greatest_bytes = std::uint64_t{6} << 30;  ///< of decoded pixels in one texture
};

}  // namespace yl
