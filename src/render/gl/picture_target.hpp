// A target without a window, and one triangle over all of it.
#pragma once

#include <span>

#include <yl/image.hpp>
#include <yl/status_macros.hpp>
#include "upload/gl/program.hpp"
#include "upload/gl/saved_state.hpp"

namespace yl::gl {

/// An sRGB colour target without a window, perhaps with depth, and a vertex array, bound while this
/// lives.
class Target {
 public:
    Target(const Functions& gl, std::uint32_t width, std::uint32_t height, bool has_depth = false)
        : gl_(gl) {
        gl.GenRenderbuffers(1, &color_);
        gl.BindRenderbuffer(GL_RENDERBUFFER, color_);
        gl.RenderbufferStorage(GL_RENDERBUFFER, GL_SRGB8_ALPHA8, static_cast<GLsizei>(width),
                               static_cast<GLsizei>(height));
        gl.GenFramebuffers(1, &framebuffer_);
        gl.BindFramebuffer(GL_FRAMEBUFFER, framebuffer_);
        gl.FramebufferRenderbuffer(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GL_RENDERBUFFER, color_);
        if (has_depth) {
            gl.GenRenderbuffers(1, &depth_);
            gl.BindRenderbuffer(GL_RENDERBUFFER, depth_);
            gl.RenderbufferStorage(GL_RENDERBUFFER, GL_DEPTH_COMPONENT24,
                                   static_cast<GLsizei>(width), static_cast<GLsizei>(height));
            gl.FramebufferRenderbuffer(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_RENDERBUFFER,
                                       depth_);
        }
        gl.GenVertexArrays(1, &vertices_);
        gl.BindVertexArray(vertices_);
        gl.Viewport(0, 0, static_cast<GLsizei>(width), static_cast<GLsizei>(height));
    }
    ~Target() {
        gl_.BindFramebuffer(GL_FRAMEBUFFER, 0);
        gl_.DeleteFramebuffers(1, &framebuffer_);
        gl_.DeleteRenderbuffers(1, &color_);
        if (depth_ != 0)
            gl_.DeleteRenderbuffers(1, &depth_);
        gl_.BindVertexArray(0);
        gl_.DeleteVertexArrays(1, &vertices_);
    }
    Target(const Target&) = delete;
    Target& operator=(const Target&) = delete;

    /// What `draw` draws, encoded as sRGB.
    template <class Draw>
    void draw_and_read(ImageView picture, const Draw& draw) const {
        if (!gl_.is_embedded)  // ES encodes whenever the target is sRGB
            gl_.Enable(GL_FRAMEBUFFER_SRGB);
        draw();
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
    GLuint depth_ = 0;
    GLuint framebuffer_ = 0;
    GLuint vertices_ = 0;
};

/// A buffer with its data, bound to its target while this lives.
class BoundBuffer {
 public:
    BoundBuffer(const Functions& gl, GLenum target, std::span<const std::byte> data)
        : gl_(gl), target_(target) {
        gl.GenBuffers(1, &buffer_);
        gl.BindBuffer(target, buffer_);
        gl.BufferData(target, static_cast<GLsizeiptr>(data.size()), data.data(), GL_STREAM_DRAW);
    }
    ~BoundBuffer() {
        gl_.BindBuffer(target_, 0);
        gl_.DeleteBuffers(1, &buffer_);
    }
    BoundBuffer(const BoundBuffer&) = delete;
    BoundBuffer& operator=(const BoundBuffer&) = delete;

    [[nodiscard]] GLuint name() const { return buffer_; }

 private:
    const Functions& gl_;
    GLenum target_;
    GLuint buffer_ = 0;
};

/// A uniform block's numbers, bound to point 0 while this lives.
class NumberBlock {
 public:
    NumberBlock(const Functions& gl, const Program& program, std::span<const float> numbers)
        : buffer_(gl, GL_UNIFORM_BUFFER, std::as_bytes(numbers)) {
        gl.BindBufferBase(GL_UNIFORM_BUFFER, 0, buffer_.name());
        program.bind_block("Numbers", 0);
    }

 private:
    BoundBuffer buffer_;
};

/// Draws one picture with the texture that is bound to unit 0 under `sampler_name`, and with the
/// numbers that the shader's block takes.
[[nodiscard]] Result<Image> draw_picture(const Functions& gl, const char* fragment_source,
                                         std::uint32_t width, std::uint32_t height,
                                         const char* sampler_name, std::span<const float> numbers);

}  // namespace yl::gl
