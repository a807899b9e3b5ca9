// The scenes of yl/scene.hpp by an OpenGL driver: one triangle over the picture, whose fragments
// find their texture coordinates as the CPU does.
#include <string>

#include <yl/gl_scene.hpp>
#include "base/attempt.hpp"
#include "upload/gl/functions.hpp"
#include "upload/gl/saved_state.hpp"

namespace yl::gl {
namespace {

constexpr const char* vertex_source = R"(#version 330 core
void main() {
    vec2 corner = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);
    gl_Position = vec4(corner, 0.0, 1.0);
}
)";

// Row 0 of the framebuffer is the picture's top row, so that no flip is needed on the way out.
constexpr const char* fragment_source = R"(#version 330 core
uniform sampler2D picture;
uniform vec3 s_row, t_row, q_row;
uniform float least_q;
uniform int is_bounded;
uniform vec2 bounds;
uniform vec3 backdrop_top, backdrop_bottom;
uniform float height;
uniform int alpha_mode;  // 0 straight, 1 premultiplied, 2 cut-out
uniform float threshold;
out vec4 color;

void main() {
    vec2 p = gl_FragCoord.xy;
    float q = q_row.x * p.x + q_row.y * p.y + q_row.z;
    float divisor = max(q, least_q);
    vec2 uv = vec2((s_row.x * p.x + s_row.y * p.y + s_row.z) / divisor, (t_row.x * p.x + t_row.y * p.y + t_row.z) / divisor);
    vec4 surface = texture(picture, uv);
    float share = p.y / height;
    vec3 backdrop = backdrop_top * (1.0 - share) + backdrop_bottom * share;
    bool seen = q >= least_q && (is_bounded == 0 || (uv.x >= 0.0 && uv.x <= bounds.x && uv.y >= 0.0 && uv.y <= bounds.y));
    vec3 result = backdrop;
    if (seen && alpha_mode == 0) result = backdrop * (1.0 - surface.a) + surface.rgb * surface.a;
    if (seen && alpha_mode == 1) result = backdrop * (1.0 - surface.a) + surface.rgb;
    if (seen && alpha_mode == 2 && surface.a >= threshold) result = surface.rgb;
    color = vec4(result, 1.0);
}
)";

/// A linked program, deleted at the end of its scope.
class Program {
 public:
    static Result<Program> link(const Functions& gl) {
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

    [[nodiscard]] bool is_ready() const {
        return gl_.CheckFramebufferStatus(GL_FRAMEBUFFER) == GL_FRAMEBUFFER_COMPLETE;
    }

 private:
    const Functions& gl_;
    GLuint color_ = 0;
    GLuint framebuffer_ = 0;
    GLuint vertices_ = 0;
};

void set_uniforms(const Functions& gl, const Program& program, const Scene& scene,
                  AlphaMode alpha) {
    const float* m = scene.texture_from_pixel.data();
    gl.Uniform1i(program.uniform("picture"), 0);
    gl.Uniform3fv(program.uniform("s_row"), 1, m);
    gl.Uniform3fv(program.uniform("t_row"), 1, m + 3);
    gl.Uniform3fv(program.uniform("q_row"), 1, m + 6);
    gl.Uniform1f(program.uniform("least_q"), scene.least_q);
    gl.Uniform1i(program.uniform("is_bounded"), scene.is_bounded ? 1 : 0);
    gl.Uniform2f(program.uniform("bounds"), scene.u_end, scene.v_end);
    gl.Uniform3fv(program.uniform("backdrop_top"), 1, scene.backdrop_top.data());
    gl.Uniform3fv(program.uniform("backdrop_bottom"), 1, scene.backdrop_bottom.data());
    gl.Uniform1f(program.uniform("height"), static_cast<float>(scene.height));
    gl.Uniform1i(program.uniform("alpha_mode"), scene.cutout_threshold              ? 2
                                                : alpha == AlphaMode::premultiplied ? 1
                                                                                    : 0);
    gl.Uniform1f(program.uniform("threshold"), scene.cutout_threshold.value_or(0.0F));
}

}  // namespace

Result<Image> draw_scene(const Device& device, const Scene& scene, const GpuTexture& texture,
                         AlphaMode alpha) {
    const Functions& gl = *device.functions();
    YL_TRY(Image picture, Image::create(Format::rgba8_srgb, scene.width, scene.height));
    YL_TRY(const Program program, Program::link(gl));
    const Target target(gl, scene.width, scene.height);
    if (!target.is_ready())
        return fail(ErrorKind::device, "the driver has no sRGB colour target of this size");
    program.use();
    set_uniforms(gl, program, scene, alpha);
    texture.bind(0);
    gl.Enable(GL_FRAMEBUFFER_SRGB);
    gl.DrawArrays(GL_TRIANGLES, 0, 3);
    gl.Disable(GL_FRAMEBUFFER_SRGB);
    const TightPixelStore tight(gl, TightPixelStore::Direction::pack);
    gl.ReadPixels(0, 0, static_cast<GLsizei>(scene.width), static_cast<GLsizei>(scene.height),
                  GL_RGBA, GL_UNSIGNED_BYTE, picture.view().data);
    gl.UseProgram(0);
    YL_CHECK(gl.check("draw the scene"));
    return picture;
}

}  // namespace yl::gl
