// The normal map that a roughness map makes up for, read and fitted.
#pragma once

#include <memory>
#include <yl/picture.hpp>

#include "base/internal.hpp"

namespace yl {

/// The normal map of a picture file, in the size of the roughness map that it goes with. Fewer than
/// three channels, and texture files, have no normals that could be read.
[[nodiscard]] YL_INTERNAL Result<std::shared_ptr<const Picture>> normals_for(
    std::span<const std::byte> content, const Picture& roughness, const ReadOptions& reading);

}  // namespace yl
