// A part of an image.
#pragma once

#include <yl/image.hpp>

namespace yl {

/// In pixels, from the top left.
struct Box {
    std::uint32_t x = 0;
    std::uint32_t y = 0;
    std::uint32_t width = 0;
    std::uint32_t height = 0;
};

/// The part as a view: nothing is copied. Fails with `ErrorKind::usage` when the box is empty or
/// reaches beyond the image, and `unsupported` for block formats.
[[nodiscard]] Result<ConstImageView> cropped(ConstImageView image, const Box& box);

}  // namespace yl
