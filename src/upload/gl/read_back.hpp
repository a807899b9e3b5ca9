// Texels back from the device.
#pragma once

#include "upload/gl/functions.hpp"

namespace yl::gl {

/// All levels of the texture `name` into `texture`, which has its shape. OpenGL hands them out;
/// from OpenGL ES they are copied, bit by bit, into integers that it can read, or fetched by a
/// shader.
[[nodiscard]] Status read_levels(const Functions& gl, GLenum target, GLuint name, Texture& texture);

/// Which part of a texture: one level of one layer and face.
struct TexturePart {
    std::uint32_t level = 0, layer = 0, face = 0;
};

/// One part of the texture, whose shape is `whole`, into `one`, which has the part's; no more of it
/// is read than the context makes necessary.
[[nodiscard]] Status read_part(const Functions& gl, GLenum target, GLuint name,
                               const TextureShape& whole, const TexturePart& part, Texture& one);

}  // namespace yl::gl
