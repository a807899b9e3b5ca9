// Which of OpenGL's targets a texture is, and how its parts are named there.
#pragma once

#include "upload/gl/functions.hpp"

namespace yl::gl {

[[nodiscard]] inline GLenum target_for(const TextureShape& shape) {
    const bool is_array = shape.is_array || shape.layers > 1;
    if (shape.faces == 6)
        return is_array ? GL_TEXTURE_CUBE_MAP_ARRAY : GL_TEXTURE_CUBE_MAP;
    if (shape.dimensions() == 1)
        return is_array ? GL_TEXTURE_1D_ARRAY : GL_TEXTURE_1D;
    if (shape.dimensions() == 3)
        return GL_TEXTURE_3D;
    return is_array ? GL_TEXTURE_2D_ARRAY : GL_TEXTURE_2D;
}

/// The target by which a single face, or else the whole texture, is named.
[[nodiscard]] inline GLenum face_target(GLenum target, std::uint32_t face) {
    return target == GL_TEXTURE_CUBE_MAP ? GL_TEXTURE_CUBE_MAP_POSITIVE_X + face : target;
}

/// How many places a level has: one side, two or three. Layers and faces take the last one.
struct Extent {
    int places = 2;
    GLsizei width = 1, height = 1, depth = 1;
};

[[nodiscard]] inline Extent extent_at(GLenum target, const TextureShape& shape,
                                      std::uint32_t level) {
    Extent extent;
    extent.width = static_cast<GLsizei>(shape.width_at(level));
    extent.height = static_cast<GLsizei>(shape.height_at(level));
    const auto parts = static_cast<GLsizei>(shape.layers * shape.faces);
    switch (target) {
        case GL_TEXTURE_1D:
            extent.places = 1;
            break;
        case GL_TEXTURE_1D_ARRAY:
            extent.height = parts;
            break;
        case GL_TEXTURE_3D:
            extent.places = 3;
            extent.depth = static_cast<GLsizei>(shape.depth_at(level));
            break;
        case GL_TEXTURE_2D_ARRAY:
        case GL_TEXTURE_CUBE_MAP_ARRAY:
            extent.places = 3;
            extent.depth = parts;
            break;
        default:
            break;
    }
    return extent;
}

}  // namespace yl::gl
