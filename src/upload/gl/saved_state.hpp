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

/// A 2D texture bound to the active unit while this lives.
class BoundTexture2D {
 public:
    BoundTexture2D(const Functions& functions, GLuint texture) : gl_(functions) {
        before_ = static_cast<GLuint>(gl_.integer(GL_TEXTURE_BINDING_2D));
        gl_.BindTexture(GL_TEXTURE_2D, texture);
    }
    ~BoundTexture2D() { gl_.BindTexture(GL_TEXTURE_2D, before_); }
    BoundTexture2D(const BoundTexture2D&) = delete;
    BoundTexture2D& operator=(const BoundTexture2D&) = delete;

 private:
    const Functions& gl_;
    GLuint before_ = 0;
};

}  // namespace yl::gl
