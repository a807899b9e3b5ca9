// Where the texels of a region come from.
#pragma once

#include <yl/upload.hpp>

#include "base/internal.hpp"

namespace yl {

/// A region's first texel in the texture that is uploaded, or in the box that is updated; its rows
/// and slices follow as they do there.
[[nodiscard]] YL_INTERNAL const std::byte* region_source(const UploadPlan& plan,
                                                         const UploadRegion& region,
                                                         const Texture& texture);

/// Lays the batch's texels into memory that is large enough, from a texture that has them.
YL_INTERNAL void lay_out(const UploadPlan& plan, const UploadBatch& batch, const Texture& texture,
                         std::span<std::byte> staging);

/// Whether this batch of the plan can be written from this texture to a device's texture of this
/// shape. Fails with `ErrorKind::usage`, naming what does not fit.
[[nodiscard]] YL_INTERNAL Status check_write(const UploadPlan& plan, std::size_t batch,
                                             const Texture& texture, const TextureShape& on_device);

}  // namespace yl
