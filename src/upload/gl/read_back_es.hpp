// Texels back from OpenGL ES, which hands out no textures.
#pragma once

#include "upload/gl/functions.hpp"

namespace yl::gl {

/// As `read_levels`. Needs OpenGL ES 3.2; fails with `ErrorKind::unsupported` below.
[[nodiscard]] Status read_levels_of_es(const Functions& gl, GLenum target, GLuint name,
                                       Texture& texture);

}  // namespace yl::gl
