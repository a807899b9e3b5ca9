// A target without a window, and one triangle over all of it.
#pragma once

#include <span>

#include <yl/image.hpp>
#include "base/attempt.hpp"
#include "upload/gl/program.hpp"
#include "upload/gl/saved_state.hpp"

namespace yl::gl {

/// An sRGB colour target without a window, and an empty vertex array, bound while this lives.
class Target {
 public:
    Target(const Functions& gl, std::uint32_t width, std::uint32_t height) : gl_(gl) {
        gl.GenRenderbuffers(1, &color_);
        gl.BindRenderbuffer(GL_RENDERBUFFER, color_);
        gl.RenderbufferStorage(GL_RENDERBUFFER, GL_SRGB8_ALPHA8, static_cast<GLsizei>(width),
                               static_cast<GLsizei>(height));
        gl.GenFramebuffers(1, &framebuffer_);
        gl.BindFramebuffer(GL_FRAMEBUFFER, framebuffer_);
        gl.FramebufferRenderbuffer(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GL_RENDERBUFFER, color_);
        gl.GenVertexArrays(1, &vertices_);
        gl.BindVertexArray(vertices_);
        gl.Viewport(0, 0, static_cast<GLsizei>(width), static_cast<GLsizei>(height));
    }
    ~Target() {
        gl_.BindFramebuffer(GL_FRAMEBUFFER, 0);
        gl_.DeleteFramebuffers(1, &framebuffer_);
        gl_.DeleteRenderbuffers(1, &color_);
        gl_.BindVertexArray(0);
        gl_.DeleteVertexArrays(1, &vertices_);
    }
    Target(const Target&) = delete;
    Target& operator=(const Target&) = delete;

    /// One triangle over all of it, encoded as sRGB.
    void draw_and_read(ImageView picture) const {
        if (!gl_.is_embedded)  // ES encodes whenever the target is sRGB
            gl_.Enable(GL_FRAMEBUFFER_SRGB);
        gl_.DrawArrays(GL_TRIANGLES, 0, 3);
        if (!gl_.is_embedded)
            gl_.Disable(GL_FRAMEBUFFER_SRGB);
        const TightPixelStore tight(gl_, TightPixelStore::Direction::pack);
        gl_.ReadPixels(0, 0, static_cast<GLsizei>(picture.width),
                       static_cast<GLsizei>(picture.height), GL_RGBA, GL_UNSIGNED_BYTE,
                       picture.data);
    }

    [[nodiscard]] bool is_ready() const {
        return gl_.CheckFramebufferStatus(GL_FRAMEBUFFER) == GL_FRAMEBUFFER_COMPLETE;
    }

 private:
    const Functions& gl_;
    GLuint color_ = 0;
    GLuint framebuffer_ = 0;
    GLuint vertices_ = 0;
};

/// Draws one picture with the texture that is bound to unit 0 under `sampler_name`, and with the
/// numbers that the shader's block takes.
[[nodiscard]] Result<Image> draw_picture(const Functions& gl, const char* fragment_source,
                                         std::uint32_t width, std::uint32_t height,
                                         const char* sampler_name, std::span<const float> numbers);

}  // namespace yl::gl
