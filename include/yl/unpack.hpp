// A texture's surfaces back as pictures.
#pragma once

#include <yl/codec.hpp>

namespace yl {

/// Which surface of a texture.
struct SurfacePlace {
    std::uint32_t level = 0, layer = 0, face = 0, slice = 0;
};

/// One surface, in the texture's own format, with what is known about its colours. Fails with
/// `ErrorKind::usage` when the texture has no such surface, `unsupported` for block formats.
[[nodiscard]] Result<Picture> picture_of_surface(const Texture& texture, const SurfacePlace& place);

/// Any image as a picture with a texture's traits.
[[nodiscard]] Result<Picture> picture_with_traits(Image image, const TextureTraits& traits);

}  // namespace yl
