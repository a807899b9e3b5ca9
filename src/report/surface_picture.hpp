// One surface of a texture as a picture for people.
#pragma once

#include <yl/sheet.hpp>
#include "base/internal.hpp"

namespace yl {

struct SurfaceChoice {
    std::uint32_t level = 0, layer = 0, face = 0, slice = 0;
    std::optional<SwizzleSource> channel = {};  ///< this one alone
};

/// Width and height of a surface when level 0's longer side is at most `longest` pixels (of a cube,
/// a face's side), and each level half as large as the one above; `enlarged` ones are that large
/// whatever their level.
[[nodiscard]] std::array<std::uint32_t, 2> picture_size(const TextureShape& shape,
                                                        const SurfaceChoice& choice,
                                                        std::uint32_t longest, bool enlarged);

/// The picture, that large, `rgba8-srgb`. The texture's format is not compressed. Of a cube it
/// shows all faces of the level.
[[nodiscard]] YL_INTERNAL Result<Image> surface_picture(const Texture& texture,
                                                        const SurfaceChoice& choice,
                                                        std::uint32_t longest, bool enlarged,
                                                        float stops);

}  // namespace yl
