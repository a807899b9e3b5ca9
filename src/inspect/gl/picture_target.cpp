#include "inspect/gl/picture_target.hpp"

namespace yl::gl {
namespace {

/// A uniform block's numbers, bound to point 0 while this lives.
class NumberBlock {
 public:
    NumberBlock(const Functions& gl, const Program& program, std::span<const float> numbers)
        : gl_(gl) {
        gl.GenBuffers(1, &buffer_);
        gl.BindBuffer(GL_UNIFORM_BUFFER, buffer_);
        gl.BufferData(GL_UNIFORM_BUFFER, static_cast<GLsizeiptr>(numbers.size_bytes()),
                      numbers.data(), GL_STREAM_DRAW);
        gl.BindBufferBase(GL_UNIFORM_BUFFER, 0, buffer_);
        program.bind_block("Numbers", 0);
    }
    ~NumberBlock() {
        gl_.BindBuffer(GL_UNIFORM_BUFFER, 0);
        gl_.DeleteBuffers(1, &buffer_);
    }
    NumberBlock(const NumberBlock&) = delete;
    NumberBlock& operator=(const NumberBlock&) = delete;

 private:
    const Functions& gl_;
    GLuint buffer_ = 0;
};

}  // namespace

Result<Image> draw_picture(const Functions& gl, const char* fragment_source, std::uint32_t width,
                           std::uint32_t height, const char* sampler_name,
                           std::span<const float> numbers) {
    YL_TRY(Image picture, Image::create(Format::rgba8_srgb, width, height));
    YL_TRY(const Program program, Program::link(gl, fragment_source));
    const Target target(gl, width, height);
    if (!target.is_ready())
        return fail(ErrorKind::device, "the driver has no sRGB colour target of this size");
    program.use();
    gl.Uniform1i(program.uniform(sampler_name), 0);
    const NumberBlock block(gl, program, numbers);
    target.draw_and_read(picture.view());
    gl.UseProgram(0);
    YL_CHECK(gl.check("draw the scene"));
    return picture;
}

}  // namespace yl::gl
