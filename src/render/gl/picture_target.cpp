#include "render/gl/picture_target.hpp"

namespace yl::gl {
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
    target.draw_and_read(picture.view(), [&] { gl.DrawArrays(GL_TRIANGLES, 0, 3); });
    gl.UseProgram(0);
    YL_CHECK(gl.check("draw the scene"));
    return picture;
}

}  // namespace yl::gl
