// Where the texels of a region come from.
#pragma once

#include <yl/upload.hpp>

namespace yl {

/// A region's first texel in the texture that is uploaded, or in the box that is updated; its rows
/// and slices follow as they do there.
[[nodiscard]] const std::byte* region_source(const UploadPlan& plan, const UploadRegion& region,
                                             const Texture& texture);

}  // namespace yl
