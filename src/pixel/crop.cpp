#include <yl/edit.hpp>

#include <fmt/format.h>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {

Result<ConstImageView> cropped(ConstImageView image, const Box& box) try {
    YL_CHECK(check_view(image, "image"));
    const FormatInfo& f = info(image.format);
    if (f.block_width * f.block_height != 1)
        return fail(ErrorKind::unsupported,
                    fmt::format("{} has blocks of texels, which cannot be cut", f.name));
    const bool fits = box.width > 0 && box.height > 0 &&
                      std::uint64_t{box.x} + box.width <= image.width &&
                      std::uint64_t{box.y} + box.height <= image.height;
    if (!fits)
        return fail(ErrorKind::usage,
                    fmt::format("a part of {} x {} at ({}, {}) does not lie in {} x {} pixels",
                                box.width, box.height, box.x, box.y, image.width, image.height));
    return ConstImageView{
        image.data + box.y * image.row_stride + std::size_t{box.x} * f.block_bytes, image.format,
        box.width, box.height, image.row_stride};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
