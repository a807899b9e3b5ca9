// Texels back from OpenGL ES, which hands out no textures.
#pragma once

#include <span>

#include "upload/gl/functions.hpp"

namespace yl::gl {

/// A level of one layer and face, or one of its slices, and where its texels go.
struct SurfaceToRead {
    GLint level = 0;
    GLint place = 0;  ///< face by face in each layer, or slice by slice
    ImageView pixels = {};
};

/// Needs OpenGL ES 3.2; fails with `ErrorKind::unsupported` below.
[[nodiscard]] Status read_surfaces_of_es(const Functions& gl, GLenum target, GLuint name,
                                         std::span<const SurfaceToRead> surfaces);

}  // namespace yl::gl
