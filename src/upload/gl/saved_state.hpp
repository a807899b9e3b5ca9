// OpenGL state that is put back at the end of a scope.
#pragma once

#include <array>
#include <optional>
#include <span>

#include "upload/gl/functions.hpp"

namespace yl::gl {

/// What old contexts do to pixels on their way, scales, biases and maps, switched off while this
/// lives.
class PlainTransfer {
 public:
    explicit PlainTransfer(const Functions& functions);
    ~PlainTransfer();
    PlainTransfer(const PlainTransfer&) = delete;
    PlainTransfer& operator=(const PlainTransfer&) = delete;

 private:
    const Functions& gl_;
    std::array<GLfloat, 9> values_{};
};

/// How pixels lie in memory, for one direction, set to tightly packed rows at `alignment` while
/// this lives; with the pixel buffer of that direction unbound.
class TightPixelStore {
 public:
    enum class Direction { unpack, pack };

    /// `buffer` is the pixel buffer to read or fill, none when 0.
    TightPixelStore(const Functions& functions, Direction direction, GLuint buffer = 0);
    ~TightPixelStore();
    TightPixelStore(const TightPixelStore&) = delete;
    TightPixelStore& operator=(const TightPixelStore&) = delete;

 private:
    const Functions& gl_;
    std::span<const GLenum> names_;
    std::array<GLint, 12> values_{};
    PlainTransfer transfer_;
    GLenum buffer_target_;
    GLuint buffer_ = 0;
};

/// The name by which a target's binding is asked for.
[[nodiscard]] GLenum binding_name(GLenum target);

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
    const Functions& gl_;
    GLenum target_;
    GLuint before_ = 0;
};

/// Bound where direct state access may not be used; otherwise nothing is.
class BoundUnlessDirect {
 public:
    BoundUnlessDirect(const Functions& functions, GLenum target, GLuint texture) {
        if (!functions.has_direct_state_access)
            bound_.emplace(functions, target, texture);
    }

 private:
    std::optional<BoundTexture> bound_ = {};
};

}  // namespace yl::gl
