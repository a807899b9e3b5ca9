// What drawing by OpenGL needs: a program of one triangle and a target without a window.
#pragma once

#include <string>
#include <utility>

#include <yl/image.hpp>
#include "base/attempt.hpp"
#include "upload/gl/functions.hpp"
#include "upload/gl/saved_state.hpp"

namespace yl::gl {

inline constexpr const char* vertex_source = R"(#version 330 core
void main() {
    vec2 corner = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);
    gl_Position = vec4(corner, 0.0, 1.0);
}
)";

/// A linked program, deleted at the end of its scope.
class Program {
 public:
    static Result<Program> link(const Functions& gl, const char* fragment_source) {
        Program program(gl);
        program.name_ = gl.CreateProgram();
        for (const auto& [kind, source] : {std::pair{GL_VERTEX_SHADER, vertex_source},
                                           std::pair{GL_FRAGMENT_SHADER, fragment_source}}) {
            const GLuint shader = gl.CreateShader(static_cast<GLenum>(kind));
            gl.ShaderSource(shader, 1, &source, nullptr);
            gl.CompileShader(shader);
            gl.AttachShader(program.name_, shader);
            gl.DeleteShader(shader);  // the program keeps it
        }
        gl.LinkProgram(program.name_);
        GLint linked = 0;
        gl.GetProgramiv(program.name_, GL_LINK_STATUS, &linked);
        if (linked != 0)
            return program;
        std::string log(512, '\0');
        GLsizei length = 0;
        gl.GetProgramInfoLog(program.name_, static_cast<GLsizei>(log.size()), &length, log.data());
        log.resize(static_cast<std::size_t>(length));
        return fail(ErrorKind::device, "the driver does not link the scene's shaders: " + log);
    }

    Program(Program&& other) noexcept : gl_(other.gl_), name_(std::exchange(other.name_, 0)) {}
    Program& operator=(Program&& other) noexcept {
        std::swap(name_, other.name_);
        return *this;
    }
    ~Program() {
        if (name_ != 0)
            gl_.DeleteProgram(name_);
    }

    void use() const { gl_.UseProgram(name_); }
    [[nodiscard]] GLint uniform(const char* name) const {
        return gl_.GetUniformLocation(name_, name);
    }

 private:
    explicit Program(const Functions& gl) : gl_(gl) {}
    const Functions& gl_;
    GLuint name_ = 0;
};

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
        gl_.Enable(GL_FRAMEBUFFER_SRGB);
        gl_.DrawArrays(GL_TRIANGLES, 0, 3);
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

/// Draws one picture: `prepare(program)` sets uniforms and binds textures.
template <class Prepare>
[[nodiscard]] Result<Image> draw_picture(const Functions& gl, const char* fragment_source,
                                         std::uint32_t width, std::uint32_t height,
                                         const Prepare& prepare) {
    YL_TRY(Image picture, Image::create(Format::rgba8_srgb, width, height));
    YL_TRY(const Program program, Program::link(gl, fragment_source));
    const Target target(gl, width, height);
    if (!target.is_ready())
        return fail(ErrorKind::device, "the driver has no sRGB colour target of this size");
    program.use();
    prepare(program);
    target.draw_and_read(picture.view());
    gl.UseProgram(0);
    YL_CHECK(gl.check("draw the scene"));
    return picture;
}

}  // namespace yl::gl
