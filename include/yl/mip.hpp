// Mip chains.
#pragma once

#include <yl/texture.hpp>

namespace yl {

/// Fills levels 1 and up from level 0, for every layer and face.
///
/// Each texel is the exact area average of the level above, also where a side is odd: a side of 5
/// shrinks to 2 texels of 2.5 each. Colour is averaged in linear light and straight alpha weighs
/// it; where all is transparent the plain average keeps the colour. Levels are computed from the
/// unrounded level above, so that rounding does not add up. Fails with `ErrorKind::unsupported`
/// for block formats and 3D textures.
[[nodiscard]] Status build_mips(Texture& texture);

}  // namespace yl
