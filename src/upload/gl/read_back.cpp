#include "upload/gl/read_back.hpp"

#include <fmt/format.h>

#include <cstring>
#include <vector>

#include <yl/status_macros.hpp>
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

void read_image(const Functions& gl, GLenum target, GLint level, Format format, void* pixels) {
    const FormatInfo& f = info(format);
    if (f.is_block())
        gl.GetCompressedTexImage(target, level, pixels);
    else
        gl.GetTexImage(target, level, f.gl.format, f.gl.type, pixels);
}

/// Of one level of `texture`, which is level `number` of the device's from `place` on.
std::vector<SurfaceToRead> surfaces_of_level(Texture& texture, std::uint32_t level, GLint number,
                                             GLint place) {
    const TextureShape& shape = texture.shape();
    std::vector<SurfaceToRead> surfaces;
    SurfaceToRead next{number, place, texture.image(level)};
    for (std::uint32_t i = 0; i < shape.layers * shape.faces * shape.depth_at(level); ++i) {
        surfaces.push_back(next);
        ++next.place;
        next.pixels.data += shape.surface_bytes(level);
    }
    return surfaces;
}

std::vector<SurfaceToRead> all_surfaces(Texture& texture) {
    std::vector<SurfaceToRead> all;
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
        for (const SurfaceToRead& surface :
             surfaces_of_level(texture, level, static_cast<GLint>(level), 0))
            all.push_back(surface);
    return all;
}

}  // namespace

Status read_levels(const Functions& gl, GLenum target, GLuint name, Texture& texture) {
    if (gl.is_embedded)
        return read_surfaces_of_es(gl, target, name, all_surfaces(texture));
    const TextureShape& shape = texture.shape();
    const BoundTexture bound(gl, target, name);
    const TightPixelStore tight(gl, TightPixelStore::Direction::pack);
    const std::uint32_t parts = target == GL_TEXTURE_CUBE_MAP ? shape.faces : 1;
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        for (std::uint32_t part = 0; part < parts; ++part) {
            const GLenum part_target = face_target(target, part);
            const auto number = static_cast<GLint>(level);
            YL_CHECK(check_size(gl, part_target, shape, level));
            // Arrays and volumes come as a whole, in the order in which they lie here too.
            read_image(gl, part_target, number, shape.format, texture.image(level, 0, part).data);
        }
    return gl.check("read the texture back");
}

namespace {

/// By glGetTextureSubImage, which counts layers and faces as slices; layers of lines as rows.
void read_sub_image(const Functions& gl, GLenum target, GLuint name, const TextureShape& whole,
                    const TexturePart& part, Texture& one) {
    const FormatInfo& f = info(whole.format);
    const auto pixels = one.level(0);
    const auto level = static_cast<GLint>(part.level);
    const auto width = static_cast<GLsizei>(one.shape().width);
    const auto height = static_cast<GLsizei>(one.shape().height);
    const auto depth = static_cast<GLsizei>(one.shape().depth);
    const auto size = static_cast<GLsizei>(pixels.size());
    const auto place = static_cast<GLint>(part.layer * whole.faces + part.face);
    const bool is_line_array = target == GL_TEXTURE_1D_ARRAY;
    const GLint y = is_line_array ? place : 0, z = is_line_array ? 0 : place;
    if (f.is_block())
        gl.GetCompressedTextureSubImage(name, level, 0, y, z, width, height, depth, size,
                                        pixels.data());
    else
        gl.GetTextureSubImage(name, level, 0, y, z, width, height, depth, f.gl.format, f.gl.type,
                              size, pixels.data());
}

}  // namespace

Status read_part(const Functions& gl, GLenum target, GLuint name, const TextureShape& whole,
                 const TexturePart& part, Texture& one) {
    const auto level = static_cast<GLint>(part.level);
    if (gl.is_embedded)
        return read_surfaces_of_es(
            gl, target, name,
            surfaces_of_level(one, 0, level,
                              static_cast<GLint>(part.layer * whole.faces + part.face)));
    const TightPixelStore tight(gl, TightPixelStore::Direction::pack);
    if (gl.has_part_reads) {
        read_sub_image(gl, target, name, whole, part, one);
        return gl.check("read a part of the texture back");
    }
    const BoundTexture bound(gl, target, name);
    if (target == GL_TEXTURE_CUBE_MAP) {
        read_image(gl, face_target(target, part.face), level, whole.format, one.level(0).data());
    } else {
        YL_TRY(Buffer all, Buffer::allocate(whole.level_bytes(part.level)));
        read_image(gl, target, level, whole.format, all.data());
        const std::size_t bytes = one.level(0).size();
        const std::size_t place = part.layer * whole.faces + part.face;
        std::memcpy(one.level(0).data(), all.data() + place * bytes, bytes);
    }
    return gl.check("read a part of the texture back");
}

}  // namespace yl::gl
