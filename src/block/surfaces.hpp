// A texture made of another one, surface by surface.
#pragma once

#include <algorithm>

#include <yl/status_macros.hpp>
#include <yl/texture.hpp>

namespace yl {

/// A surface as it is.
[[nodiscard]] inline Status copy_rows(ConstImageView from, ImageView to) {
    for (std::uint32_t y = 0; y < from.row_count(); ++y)
        std::ranges::copy(from.row(y), to.row(y).begin());
    return {};
}

/// A texture of the same shape in another format, with the same metadata; `change(from, to)` makes
/// each surface: every level, layer, face and slice.
template <class Change>
[[nodiscard]] Result<Texture> with_each_surface(const Texture& texture, Format format,
                                                const Change& change) {
    TextureShape shape = texture.shape();
    shape.format = format;
    YL_TRY(Texture result, Texture::create(shape, Limits::none()));
    for (std::uint32_t level = 0; level < shape.levels; ++level)
        for (std::uint32_t layer = 0; layer < shape.layers; ++layer)
            for (std::uint32_t face = 0; face < shape.faces; ++face)
                for (std::uint32_t slice = 0; slice < shape.depth_at(level); ++slice) {
                    ConstImageView from = texture.image(level, layer, face);
                    from.data += slice * texture.shape().surface_bytes(level);
                    ImageView to = result.image(level, layer, face);
                    to.data += slice * shape.surface_bytes(level);
                    YL_CHECK(change(from, to));
                }
    result.metadata = texture.metadata;
    return result;
}

}  // namespace yl
