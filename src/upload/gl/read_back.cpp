#include "upload/gl/read_back.hpp"

#include <fmt/format.h>

#include "base/attempt.hpp"
#include "upload/gl/read_back_es.hpp"
#include "upload/gl/saved_state.hpp"
#include "upload/gl/targets.hpp"

namespace yl::gl {
namespace {

Status check_size(const Functions& gl, GLenum target, const TextureShape& shape,
                  std::uint32_t level) {
    const auto number = static_cast<GLint>(level);
    GLint width = 0, height = 0;
    gl.GetTexLevelParameteriv(target, number, GL_TEXTURE_WIDTH, &width);
    gl.GetTexLevelParameteriv(target, number, GL_TEXTURE_HEIGHT, &height);
    const bool is_line_array = target == GL_TEXTURE_1D_ARRAY;
    if (static_cast<std::uint32_t>(width) == shape.width_at(level) &&
        (is_line_array || static_cast<std::uint32_t>(height) == shape.height_at(level)))
        return {};
    return fail(ErrorKind::device,
                fmt::format("level {} is {} x {} texels on the device", level, width, height));
}

}  // namespace

Status read_levels(const Functions& gl, GLenum target, GLuint name, Texture& texture) {
    if (gl.is_embedded)
        return read_levels_of_es(gl, target, name, texture);
    const TextureShape& shape = texture.shape();
    const FormatInfo& f = info(shape.format);
    const BoundTexture bound(gl, target, name);
    const TightPixelStore tight(gl, TightPixelStore::Direction::pack);
    const std::uint32_t parts = target == GL_TEXTURE_CUBE_MAP ? shape.faces : 1;
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        for (std::uint32_t part = 0; part < parts; ++part) {
            const GLenum part_target = face_target(target, part);
            const auto number = static_cast<GLint>(level);
            YL_CHECK(check_size(gl, part_target, shape, level));
            // Arrays and volumes come as a whole, in the order in which they lie here too.
            void* pixels = texture.image(level, 0, part).data;
            if (f.is_block())
                gl.GetCompressedTexImage(part_target, number, pixels);
            else
                gl.GetTexImage(part_target, number, f.gl.format, f.gl.type, pixels);
        }
    return gl.check("read the texture back");
}

}  // namespace yl::gl
