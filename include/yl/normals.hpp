// Normal maps.
#pragma once

#include <yl/image.hpp>
#include <yl/kernel.hpp>

namespace yl {

struct NormalOptions {
    /// Height of white over black, in texels: the steepness of slopes.
    float height = 8;
    Edges edges = {Edge::repeat, Edge::repeat};
    /// Whether green grows where the surface rises towards the picture's top, as in OpenGL and
    /// glTF.
    bool green_up = true;
};

/// Normals of a height map, whose first channel counts, as stored: slopes by the 3 x 3 operator of
/// Scharr ("Optimal Operators in Digital Image Processing", 2000). rgba8-unorm, or rgba16-unorm
/// when the heights have more than 8 bits. Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] Result<Image> normals_from_height(ConstImageView height,
                                                const NormalOptions& options = {});

}  // namespace yl
