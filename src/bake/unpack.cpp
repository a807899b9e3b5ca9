#include <yl/bake.hpp>

#include <fmt/format.h>

#include <yl/block.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {

Result<Picture> picture_with_metadata(Image image, const TextureMetadata& metadata) try {
    const FormatInfo& f = info(image.format());
    if (f.block_width != 1 || f.block_height != 1)
        return fail(ErrorKind::unsupported,
                    fmt::format("{} has to be decoded before it becomes a picture", f.name));
    Picture picture;
    picture.transfer = f.transfer == Transfer::srgb ? Transfer::srgb : metadata.transfer;
    picture.alpha = metadata.alpha;
    picture.swizzle = metadata.swizzle;
    picture.image = std::move(image);
    return picture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Picture> picture_of_surface(const Texture& texture, const SubresourceIndex& place) try {
    YL_CHECK(check_texture(texture, "texture"));
    const TextureShape& shape = texture.shape();
    if (place.level >= shape.levels || place.layer >= shape.layers || place.face >= shape.faces ||
        place.slice >= shape.depth_at(place.level))
        return fail(ErrorKind::usage,
                    fmt::format("the texture has no level {}, layer {}, face {}, slice {}",
                                place.level, place.layer, place.face, place.slice));
    ConstImageView view = texture.image(place.level, place.layer, place.face);
    view.data += place.slice * shape.surface_bytes(place.level);
    if (info(view.format).is_block()) {
        YL_TRY(Image texels, decode_blocks(view));
        return picture_with_metadata(std::move(texels), texture.metadata);
    }
    YL_TRY(Image image, Image::create(view.format, view.width, view.height));
    const ImageView target = image.view();
    for (std::uint32_t y = 0; y < view.height; ++y)
        std::copy_n(view.row(y).data(), view.row_bytes(), target.row(y).data());
    return picture_with_metadata(std::move(image), texture.metadata);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
