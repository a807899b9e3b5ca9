// Texels back from the device.
#pragma once

#include "upload/gl/functions.hpp"

namespace yl::gl {

/// All levels of the texture `name` into `texture`, which has its shape. OpenGL hands them out;
/// from OpenGL ES they are copied, bit by bit, into integers that it can read, or fetched by a
/// shader.
[[nodiscard]] Status read_levels(const Functions& gl, GLenum target, GLuint name, Texture& texture);

}  // namespace yl::gl
