#include <yl/image.hpp>

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include <yl/texture.hpp>
#include "base/out_of_memory.hpp"

namespace yl {

Result<Image> Image::create(Format format, std::uint32_t width, std::uint32_t height,
                            const Limits& limits) try {
    const TextureShape shape{.format = format, .width = width, .height = height};
    YL_CHECK(check_shape(shape, limits));
    YL_TRY(Buffer pixels, Buffer::allocate(shape.total_bytes()));
    return adopt(std::move(pixels), format, width, height);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Image> Image::adopt(Buffer pixels, Format format, std::uint32_t width,
                           std::uint32_t height) try {
    const TextureShape shape{.format = format, .width = width, .height = height};
    YL_CHECK(check_shape(shape, {.max_side = ~0U, .max_bytes = pixels.size()}));
    Image image;
    image.pixels_ = std::move(pixels);
    image.format_ = format;
    image.width_ = width;
    image.height_ = height;
    return image;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Image> Image::clone() const {
    if (pixels_.size() == 0)
        return Image();
    YL_TRY(Buffer copy, Buffer::allocate(pixels_.size()));
    std::ranges::copy(pixels_.bytes(), copy.data());
    return adopt(std::move(copy), format_, width_, height_);
}

std::size_t Image::row_stride() const {
    return ConstImageView{nullptr, format_, width_, height_, 0}.row_bytes();
}

}  // namespace yl
