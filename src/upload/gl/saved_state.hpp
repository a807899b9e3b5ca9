// OpenGL state that is put back at the end of a scope.
#pragma once

#include <array>

#include "upload/gl/functions.hpp"

namespace yl::gl {

/// How pixels lie in memory, for one direction, set to tightly packed rows at `alignment` while
/// this lives; with the pixel buffer of that direction unbound.
class TightPixelStore {
 public:
    enum class Direction { unpack, pack };

    TightPixelStore(const Functions& functions, Direction direction);
    ~TightPixelStore();
    TightPixelStore(const TightPixelStore&) = delete;
    TightPixelStore& operator=(const TightPixelStore&) = delete;

 private:
    const Functions& gl_;
    const std::array<GLenum, 8>& names_;
    std::array<GLint, 8> values_{};
    GLenum buffer_target_;
    GLuint buffer_ = 0;
};

/// A texture bound to its target of the active unit while this lives.
class BoundTexture {
 public:
    BoundTexture(const Functions& functions, GLenum target, GLuint texture)
        : gl_(functions), target_(target) {
        before_ = static_cast<GLuint>(gl_.integer(binding_name(target)));
        gl_.BindTexture(target_, texture);
    }
    ~BoundTexture() { gl_.BindTexture(target_, before_); }
    BoundTexture(const BoundTexture&) = delete;
    BoundTexture& operator=(const BoundTexture&) = delete;

 private:
    static GLenum binding_name(GLenum target) {
        switch (target) {
            case GL_TEXTURE_CUBE_MAP:
                return GL_TEXTURE_BINDING_CUBE_MAP;
            case GL_TEXTURE_2D_ARRAY:
                return GL_TEXTURE_BINDING_2D_ARRAY;
            case GL_TEXTURE_CUBE_MAP_ARRAY:
                return GL_TEXTURE_BINDING_CUBE_MAP_ARRAY;
            default:
                return GL_TEXTURE_BINDING_2D;
        }
    }

    const Functions& gl_;
    GLenum target_;
    GLuint before_ = 0;
};

}  // namespace yl::gl
