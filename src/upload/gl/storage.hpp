// A texture's memory on the device: taken, filled and described, bound or by direct state access.
#pragma once

#include "upload/gl/functions.hpp"

namespace yl::gl {

/// A texture object and what it is; where direct state access may not be used, it has to be bound.
struct TextureObject {
    const Functions& gl;
    GLenum target = 0;
    GLuint name = 0;

    void set(GLenum parameter, GLint value) const;
};

/// All levels at once, for good.
void allocate_fixed(const TextureObject& texture, const TextureShape& shape);
/// Levels that may be given again; only while bound.
void allocate_loose(const TextureObject& texture, const TextureShape& shape);

/// Fills one region. `pixels` is an address, or an offset in the pixel buffer that is bound.
void fill_region(const TextureObject& texture, const TextureShape& shape,
                 const UploadRegion& region, const void* pixels);

/// Levels that samplers see, and what they see in each channel.
void declare_levels(const TextureObject& texture, LevelRange range);
void declare_swizzle(const TextureObject& texture, const Swizzle& swizzle);

}  // namespace yl::gl
