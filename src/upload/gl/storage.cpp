#include "upload/gl/storage.hpp"

#include "base/checked.hpp"
#include "upload/gl/targets.hpp"

namespace yl::gl {
namespace {

GLint swizzle_enumerant(SwizzleSource source) {
    constexpr GLint names[] = {GL_RED, GL_GREEN, GL_BLUE, GL_ALPHA, GL_ZERO, GL_ONE};
    return names[static_cast<std::size_t>(source)];
}

/// Where a region lies, with layers and faces in the last place of arrays.
struct Place {
    GLint x = 0, y = 0, z = 0;
    GLsizei width = 1, height = 1, depth = 1;
};

Place place_of(GLenum target, const TextureShape& shape, const UploadRegion& region) {
    Place place;
    place.x = static_cast<GLint>(region.x);
    place.y = static_cast<GLint>(region.y);
    place.z = static_cast<GLint>(region.z);
    place.width = static_cast<GLsizei>(region.width);
    place.height = static_cast<GLsizei>(region.height);
    place.depth = static_cast<GLsizei>(region.depth);
    const auto part = static_cast<GLint>(region.layer * shape.faces + region.face);
    if (target == GL_TEXTURE_1D_ARRAY)
        place.y = part;
    else if (target != GL_TEXTURE_3D)
        place.z = part;
    return place;
}

void fill_directly(const TextureObject& texture, const GlFormat& format, GLint level,
                   const Place& p, int places, bool is_block, GLsizei bytes, const void* pixels) {
    const Functions& gl = texture.gl;
    if (places == 3 && is_block)
        gl.CompressedTextureSubImage3D(texture.name, level, p.x, p.y, p.z, p.width, p.height,
                                       p.depth, format.internal_format, bytes, pixels);
    else if (places == 3)
        gl.TextureSubImage3D(texture.name, level, p.x, p.y, p.z, p.width, p.height, p.depth,
                             format.format, format.type, pixels);
    else if (is_block)
        gl.CompressedTextureSubImage2D(texture.name, level, p.x, p.y, p.width, p.height,
                                       format.internal_format, bytes, pixels);
    else if (places == 2)
        gl.TextureSubImage2D(texture.name, level, p.x, p.y, p.width, p.height, format.format,
                             format.type, pixels);
    else
        gl.TextureSubImage1D(texture.name, level, p.x, p.width, format.format, format.type, pixels);
}

void fill_bound(const Functions& gl, GLenum target, const GlFormat& format, GLint level,
                const Place& p, int places, bool is_block, GLsizei bytes, const void* pixels) {
    if (places == 3 && is_block)
        gl.CompressedTexSubImage3D(target, level, p.x, p.y, p.z, p.width, p.height, p.depth,
                                   format.internal_format, bytes, pixels);
    else if (places == 3)
        gl.TexSubImage3D(target, level, p.x, p.y, p.z, p.width, p.height, p.depth, format.format,
                         format.type, pixels);
    else if (is_block)
        gl.CompressedTexSubImage2D(target, level, p.x, p.y, p.width, p.height,
                                   format.internal_format, bytes, pixels);
    else if (places == 2)
        gl.TexSubImage2D(target, level, p.x, p.y, p.width, p.height, format.format, format.type,
                         pixels);
    else
        gl.TexSubImage1D(target, level, p.x, p.width, format.format, format.type, pixels);
}

}  // namespace

void TextureObject::set(GLenum parameter, GLint value) const {
    if (gl.has_direct_state_access)
        gl.TextureParameteri(name, parameter, value);
    else
        gl.TexParameteri(target, parameter, value);
}

void allocate_fixed(const TextureObject& texture, const TextureShape& shape) {
    const Functions& gl = texture.gl;
    const GLenum format = info(shape.format).gl.internal_format;
    const auto levels = static_cast<GLsizei>(shape.levels);
    const Extent e = extent_at(texture.target, shape, 0);
    const bool directly = gl.has_direct_state_access;
    if (e.places == 3 && directly)
        gl.TextureStorage3D(texture.name, levels, format, e.width, e.height, e.depth);
    else if (e.places == 3)
        gl.TexStorage3D(texture.target, levels, format, e.width, e.height, e.depth);
    else if (e.places == 2 && directly)
        gl.TextureStorage2D(texture.name, levels, format, e.width, e.height);
    else if (e.places == 2)
        gl.TexStorage2D(texture.target, levels, format, e.width, e.height);
    else if (directly)
        gl.TextureStorage1D(texture.name, levels, format, e.width);
    else
        gl.TexStorage1D(texture.target, levels, format, e.width);
}

namespace {

/// Blocks as such: the ordinary calls ask the driver to encode, which it need not know (ETC2).
void allocate_loose_blocks(const TextureObject& texture, const TextureShape& shape) {
    const Functions& gl = texture.gl;
    const GLenum internal = info(shape.format).gl.internal_format;
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        const Extent e = extent_at(texture.target, shape, level);
        const auto number = static_cast<GLint>(level);
        const std::uint32_t faces = texture.target == GL_TEXTURE_CUBE_MAP ? 6 : 1;
        if (e.places == 3)
            gl.CompressedTexImage3D(texture.target, number, internal, e.width, e.height, e.depth, 0,
                                    static_cast<GLsizei>(shape.level_bytes(level)), nullptr);
        else
            for (std::uint32_t face = 0; face < faces; ++face)
                gl.CompressedTexImage2D(face_target(texture.target, face), number, internal,
                                        e.width, e.height, 0,
                                        static_cast<GLsizei>(shape.surface_bytes(level)), nullptr);
    }
}

}  // namespace

void allocate_loose(const TextureObject& texture, const TextureShape& shape) {
    if (info(shape.format).is_block())
        return allocate_loose_blocks(texture, shape);
    const Functions& gl = texture.gl;
    const GlFormat& format = info(shape.format).gl;
    const auto internal = static_cast<GLint>(format.internal_format);
    for (std::uint32_t level = 0; level < shape.levels; ++level) {
        const Extent e = extent_at(texture.target, shape, level);
        const auto number = static_cast<GLint>(level);
        const std::uint32_t faces = texture.target == GL_TEXTURE_CUBE_MAP ? 6 : 1;
        if (e.places == 3)
            gl.TexImage3D(texture.target, number, internal, e.width, e.height, e.depth, 0,
                          format.format, format.type, nullptr);
        else if (e.places == 1)
            gl.TexImage1D(texture.target, number, internal, e.width, 0, format.format, format.type,
                          nullptr);
        else
            for (std::uint32_t face = 0; face < faces; ++face)
                gl.TexImage2D(face_target(texture.target, face), number, internal, e.width,
                              e.height, 0, format.format, format.type, nullptr);
    }
}

void fill_region(const TextureObject& texture, const TextureShape& shape,
                 const UploadRegion& region, const void* pixels) {
    const FormatInfo& f = info(shape.format);
    const Place place = place_of(texture.target, shape, region);
    const int places = extent_at(texture.target, shape, 0).places;
    const auto level = static_cast<GLint>(region.level);
    const auto bytes = static_cast<GLsizei>(ceil_div(region.width, f.block_width) * f.block_bytes *
                                            ceil_div(region.height, f.block_height) * region.depth);
    // By direct access a cube's faces are the slices of a third place.
    const bool is_cube = texture.target == GL_TEXTURE_CUBE_MAP;
    if (texture.gl.has_direct_state_access)
        fill_directly(texture, f.gl, level, place, is_cube ? 3 : places, f.is_block(), bytes,
                      pixels);
    else
        fill_bound(texture.gl, face_target(texture.target, region.face), f.gl, level, place, places,
                   f.is_block(), bytes, pixels);
}

void declare_levels(const TextureObject& texture, LevelRange range) {
    constexpr std::uint32_t most = 1000;  // OpenGL's own default, beyond any texture's levels
    texture.set(GL_TEXTURE_BASE_LEVEL, static_cast<GLint>(range.first));
    texture.set(GL_TEXTURE_MAX_LEVEL, static_cast<GLint>(std::min(range.last(), most)));
}

void declare_swizzle(const TextureObject& texture, const Swizzle& swizzle) {
    // One by one: OpenGL ES has no way to set all four.
    constexpr GLenum names[] = {GL_TEXTURE_SWIZZLE_R, GL_TEXTURE_SWIZZLE_G, GL_TEXTURE_SWIZZLE_B,
                                GL_TEXTURE_SWIZZLE_A};
    for (std::size_t i = 0; i < swizzle.size(); ++i)
        texture.set(names[i], swizzle_enumerant(swizzle[i]));
}

}  // namespace yl::gl
