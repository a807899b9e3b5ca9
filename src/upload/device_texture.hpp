// What the textures of all backends have in common.
#pragma once

#include <yl/upload.hpp>

#include "base/internal.hpp"

namespace yl {

/// What a texture answers once it was moved from.
[[nodiscard]] YL_INTERNAL tl::unexpected<Error> moved_from();

/// The levels that samplers are to see, with their number; an error for levels that are not there.
[[nodiscard]] YL_INTERNAL Result<LevelRange> checked_levels(const TextureShape& shape,
                                                            LevelRange range);

}  // namespace yl
