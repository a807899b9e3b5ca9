// Shader programs.
#pragma once

#include <string>
#include <utility>

#include "upload/gl/functions.hpp"

namespace yl::gl {

/// One triangle over everything, without any vertex data.
inline constexpr const char* cover_all = R"(
void main() {
    vec2 corner = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);
    gl_Position = vec4(corner, 0.0, 1.0);
}
)";

/// What every shader begins with; sources hold no version of their own.
[[nodiscard]] inline const char* shader_preamble(const Functions& gl) {
    return gl.is_embedded ? "#version 300 es\nprecision highp float;\nprecision highp int;\n"
                            "precision highp sampler2D;\nprecision highp samplerCube;\n"
                            "#define NUMBERS layout(std140)\n#define TEXTURE\n#define COLOR\n"
                          : "#version 330 core\n"
                            "#define NUMBERS layout(std140)\n#define TEXTURE\n#define COLOR\n";
}

/// A linked program, deleted at the end of its scope.
class Program {
 public:
    static Result<Program> link(const Functions& gl, const char* fragment_source,
                                const char* vertex_source = cover_all) {
        Program program(gl);
        program.name_ = gl.CreateProgram();
        for (const auto& [kind, source] : {std::pair{GL_VERTEX_SHADER, vertex_source},
                                           std::pair{GL_FRAGMENT_SHADER, fragment_source}}) {
            const GLuint shader = gl.CreateShader(static_cast<GLenum>(kind));
            const char* sources[] = {shader_preamble(gl), source};
            gl.ShaderSource(shader, 2, sources, nullptr);
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
    void bind_block(const char* name, GLuint point) const {
        gl_.UniformBlockBinding(name_, gl_.GetUniformBlockIndex(name_, name), point);
    }

 private:
    explicit Program(const Functions& gl) : gl_(gl) {}
    const Functions& gl_;
    GLuint name_ = 0;
};

}  // namespace yl::gl
