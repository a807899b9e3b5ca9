// Cut-out textures that stay as dense as they are.
#pragma once

#include <yl/texture.hpp>

namespace yl {

/// The share of an image that passes an alpha test, alpha >= threshold, as it is drawn: alpha is
/// bilinear between texels, and looked at in 4 x 4 places of each. Of formats without alpha, the
/// first channel counts, as stored. 0 for block formats.
[[nodiscard]] double coverage(ConstImageView image, float threshold);

/// Scales the alpha of each level from 1 on, layer by layer and face by face, so that the same
/// share passes the test as at level 0, as nearly as the level's texels allow; leaves of trees
/// would vanish in the distance otherwise. Where a level's texels are too much alike for a scale to
/// tell them apart, they are spread by a fine pattern. Premultiplied colours are scaled with it.
/// Fails with `ErrorKind::usage` when the threshold does not lie between 0 and 1, and `unsupported`
/// for block formats and 3D textures.
[[nodiscard]] Status keep_coverage(Texture& texture, float threshold);

}  // namespace yl
