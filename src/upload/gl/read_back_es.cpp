// Each surface is copied, bit by bit, into a texture of integers of the same size, which can be
// read (OpenGL ES 3.2, section 16.2.2). Formats of three channels have no such twin that can be
// drawn to: a shader fetches their texels as floats, which hold all of their values.
#include "upload/gl/read_back_es.hpp"

#include <fmt/format.h>

#include <cstring>
#include <optional>

#include <yl/convert.hpp>
#include <yl/status_macros.hpp>
#include "base/checked.hpp"
#include "upload/gl/program.hpp"
#include "upload/gl/saved_state.hpp"
#include "upload/gl/targets.hpp"

namespace yl::gl {
namespace {

constexpr const char* fetch_source = R"(
uniform sampler2D texels;
out uvec4 bits;
void main() {
    bits = floatBitsToUint(texelFetch(texels, ivec2(gl_FragCoord.xy), 0));
}
)";

/// One texture of one level that lives for a read.
class Scratch {
 public:
    Scratch(const Functions& gl, GLenum format, GLsizei width, GLsizei height) : gl_(gl) {
        gl.GenTextures(1, &name_);
        const BoundTexture bound(gl, GL_TEXTURE_2D, name_);
        gl.TexStorage2D(GL_TEXTURE_2D, 1, format, width, height);
        gl.TexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, GL_NEAREST);
        gl.TexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAG_FILTER, GL_NEAREST);
    }
    ~Scratch() { gl_.DeleteTextures(1, &name_); }
    Scratch(const Scratch&) = delete;
    Scratch& operator=(const Scratch&) = delete;

    [[nodiscard]] GLuint name() const { return name_; }

 private:
    const Functions& gl_;
    GLuint name_ = 0;
};

/// A framebuffer around a scratch texture, bound while it lives.
class ScratchFramebuffer {
 public:
    ScratchFramebuffer(const Functions& gl, GLuint texture) : gl_(gl) {
        draw_before_ = static_cast<GLuint>(gl.integer(GL_DRAW_FRAMEBUFFER_BINDING));
        read_before_ = static_cast<GLuint>(gl.integer(GL_READ_FRAMEBUFFER_BINDING));
        gl.GenFramebuffers(1, &name_);
        gl.BindFramebuffer(GL_FRAMEBUFFER, name_);
        gl.FramebufferTexture2D(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GL_TEXTURE_2D, texture, 0);
    }
    ~ScratchFramebuffer() {
        gl_.BindFramebuffer(GL_DRAW_FRAMEBUFFER, draw_before_);
        gl_.BindFramebuffer(GL_READ_FRAMEBUFFER, read_before_);
        gl_.DeleteFramebuffers(1, &name_);
    }
    ScratchFramebuffer(const ScratchFramebuffer&) = delete;
    ScratchFramebuffer& operator=(const ScratchFramebuffer&) = delete;

    [[nodiscard]] std::vector<std::uint32_t> read(GLsizei width, GLsizei height) const {
        const TightPixelStore tight(gl_, TightPixelStore::Direction::pack);
        std::vector<std::uint32_t> numbers(static_cast<std::size_t>(width) *
                                           static_cast<std::size_t>(height) * 4);
        gl_.ReadPixels(0, 0, width, height, GL_RGBA_INTEGER, GL_UNSIGNED_INT, numbers.data());
        return numbers;
    }

 private:
    const Functions& gl_;
    GLuint name_ = 0, draw_before_ = 0, read_before_ = 0;
};

/// Everything that could keep a triangle from writing its plain numbers, switched off.
class PlainDrawing {
 public:
    explicit PlainDrawing(const Functions& gl) : gl_(gl) {
        for (std::size_t i = 0; i < switches.size(); ++i) {
            were_on_[i] = gl.IsEnabled(switches[i]) == GL_TRUE;
            gl.Disable(switches[i]);
        }
        gl.GetBooleani_v(GL_COLOR_WRITEMASK, 0, mask_.data());
        gl.ColorMaski(0, GL_TRUE, GL_TRUE, GL_TRUE, GL_TRUE);
        gl.GetIntegerv(GL_VIEWPORT, viewport_.data());
        program_ = static_cast<GLuint>(gl.integer(GL_CURRENT_PROGRAM));
        vertices_before_ = static_cast<GLuint>(gl.integer(GL_VERTEX_ARRAY_BINDING));
        gl.GenVertexArrays(1, &vertices_);
        gl.BindVertexArray(vertices_);
        active_ = static_cast<GLenum>(gl.integer(GL_ACTIVE_TEXTURE));
        gl.ActiveTexture(GL_TEXTURE0);
        texture_ = static_cast<GLuint>(gl.integer(GL_TEXTURE_BINDING_2D));
        sampler_ = static_cast<GLuint>(gl.integer(GL_SAMPLER_BINDING));
        gl.BindSampler(0, 0);
    }
    ~PlainDrawing() {
        gl_.BindTexture(GL_TEXTURE_2D, texture_);
        gl_.BindSampler(0, sampler_);
        gl_.ActiveTexture(active_);
        gl_.BindVertexArray(vertices_before_);
        gl_.DeleteVertexArrays(1, &vertices_);
        gl_.UseProgram(program_);
        gl_.Viewport(viewport_[0], viewport_[1], viewport_[2], viewport_[3]);
        gl_.ColorMaski(0, mask_[0], mask_[1], mask_[2], mask_[3]);
        for (std::size_t i = 0; i < switches.size(); ++i)
            if (were_on_[i])
                gl_.Enable(switches[i]);
    }
    PlainDrawing(const PlainDrawing&) = delete;
    PlainDrawing& operator=(const PlainDrawing&) = delete;

 private:
    // Integers are never blended, and one buffer without samples has no other tests.
    static constexpr std::array<GLenum, 5> switches = {GL_SCISSOR_TEST, GL_DEPTH_TEST, GL_CULL_FACE,
                                                       GL_STENCIL_TEST, GL_RASTERIZER_DISCARD};
    const Functions& gl_;
    std::array<bool, switches.size()> were_on_{};
    std::array<GLint, 4> viewport_{};
    std::array<GLboolean, 4> mask_{};
    GLuint program_ = 0, vertices_ = 0, vertices_before_ = 0, texture_ = 0, sampler_ = 0;
    GLenum active_ = 0;
};

/// Integers of a block's or texel's size that can be drawn to.
std::optional<GLenum> integer_twin(std::size_t bytes) {
    switch (bytes) {
        case 1:
            return GL_R8UI;
        case 2:
            return GL_R16UI;
        case 4:
            return GL_R32UI;
        case 8:
            return GL_RG32UI;
        case 16:
            return GL_RGBA32UI;
        default:
            return std::nullopt;
    }
}

void copy_to(const Functions& gl, GLenum target, GLuint from, const SurfaceToRead& surface,
             GLuint to) {
    gl.CopyImageSubData(from, target, surface.level, 0, 0, surface.place, to, GL_TEXTURE_2D, 0, 0,
                        0, 0, static_cast<GLsizei>(surface.pixels.width),
                        static_cast<GLsizei>(surface.pixels.height), 1);
}

void read_bits(const Functions& gl, GLenum target, GLuint name, GLenum twin,
               const SurfaceToRead& surface) {
    const FormatInfo& f = info(surface.pixels.format);
    const auto width = static_cast<GLsizei>(ceil_div(surface.pixels.width, f.block_width));
    const auto height = static_cast<GLsizei>(ceil_div(surface.pixels.height, f.block_height));
    const Scratch scratch(gl, twin, width, height);
    copy_to(gl, target, name, surface, scratch.name());
    const auto numbers = ScratchFramebuffer(gl, scratch.name()).read(width, height);
    const std::size_t bytes = f.block_bytes;
    for (std::uint32_t y = 0; y < surface.pixels.row_count(); ++y)
        for (std::size_t x = 0; x < static_cast<std::size_t>(width); ++x)
            std::memcpy(&surface.pixels.row(y)[x * bytes],
                        &numbers[4 * (y * static_cast<std::size_t>(width) + x)], bytes);
}

Status fetch_texels(const Functions& gl, GLenum target, GLuint name, const Program& program,
                    const SurfaceToRead& surface) {
    const FormatInfo& f = info(surface.pixels.format);
    const auto width = static_cast<GLsizei>(surface.pixels.width);
    const auto height = static_cast<GLsizei>(surface.pixels.height);
    const Scratch copy(gl, f.gl.internal_format, width, height);
    copy_to(gl, target, name, surface, copy.name());
    const Scratch drawn(gl, GL_RGBA32UI, width, height);
    const PlainDrawing plain(gl);
    const ScratchFramebuffer framebuffer(gl, drawn.name());
    gl.BindTexture(GL_TEXTURE_2D, copy.name());
    program.use();
    gl.Uniform1i(program.uniform("texels"), 0);
    gl.Viewport(0, 0, width, height);
    gl.DrawArrays(GL_TRIANGLES, 0, 3);
    auto numbers = framebuffer.read(width, height);
    const ConstImageView fetched = {reinterpret_cast<const std::byte*>(numbers.data()),
                                    Format::rgba32_float, surface.pixels.width,
                                    surface.pixels.height, surface.pixels.width * std::size_t{16}};
    return convert(fetched, surface.pixels, {});
}

}  // namespace

Status read_surfaces_of_es(const Functions& gl, GLenum target, GLuint name,
                           std::span<const SurfaceToRead> surfaces) {
    if (gl.CopyImageSubData == nullptr || gl.ColorMaski == nullptr || gl.GetBooleani_v == nullptr)
        return fail(ErrorKind::unsupported,
                    "reading textures back needs OpenGL ES 3.2 (glCopyImageSubData)");
    std::optional<Program> fetch;
    for (const SurfaceToRead& surface : surfaces) {
        const auto twin = integer_twin(info(surface.pixels.format).block_bytes);
        if (twin) {
            read_bits(gl, target, name, *twin, surface);
            continue;
        }
        if (!fetch) {
            YL_TRY(Program program, Program::link(gl, fetch_source));
            fetch.emplace(std::move(program));
        }
        YL_CHECK(fetch_texels(gl, target, name, *fetch, surface));
    }
    return gl.check("read the texture back");
}

}  // namespace yl::gl
