// OpenEXR files.
#pragma once

#include "codec/picture_format.hpp"

namespace yl::exr {

/// Half floats in scan lines, ZIP-compressed.
[[nodiscard]] Result<std::vector<std::byte>> write(ConstImageView image,
                                                   const WriteOptions& options);

}  // namespace yl::exr
