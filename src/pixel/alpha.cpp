#include <yl/edit.hpp>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "pixel/stored_rows.hpp"

namespace yl {
namespace {

Status needs_alpha(ConstImageView image) {
    const FormatInfo& f = info(image.format);
    if (f.has(Channel::alpha) && row_codec(image.format, Transfer::linear).load != nullptr)
        return {};
    return fail(
        ErrorKind::usage,
        fmt::format("{} has no alpha; convert to a format with four channels first", f.name));
}

/// Calls `edit(pixel)` for each pixel in linear light.
template <class Edit>
Status edit_pixels(ImageView image, Transfer transfer, const Edit& edit) {
    YL_CHECK(needs_alpha(image));
    edit_rows(image, row_codec(image.format, transfer),
              [&](std::vector<float>& rgba, std::uint32_t) {
                  for (float* pixel = rgba.data(); pixel != rgba.data() + rgba.size(); pixel += 4)
                      edit(pixel);
              });
    return {};
}

}  // namespace

Status premultiply(ImageView image, Transfer transfer) try {
    YL_CHECK(check_view(image, "image"));
    return edit_pixels(image, transfer, [](float* pixel) {
        for (int c = 0; c < 3; ++c)
            pixel[c] *= pixel[3];
    });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status unpremultiply(ImageView image, Transfer transfer) try {
    YL_CHECK(check_view(image, "image"));
    return edit_pixels(image, transfer, [](float* pixel) {
        for (int c = 0; c < 3; ++c)
            pixel[c] = pixel[3] > 0 ? pixel[c] / pixel[3] : 0;
    });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status composite_over(ImageView image, const std::array<float, 3>& linear_color,
                      Transfer transfer) try {
    YL_CHECK(check_view(image, "image"));
    return edit_pixels(image, transfer, [&](float* pixel) {
        for (std::size_t c = 0; c < 3; ++c)
            pixel[c] = linear_color[c] + (pixel[c] - linear_color[c]) * pixel[3];
        pixel[3] = 1;
    });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status mask_by(ImageView image, ConstImageView mask) try {
    YL_CHECK(check_view(image, "image"));
    YL_CHECK(check_view(mask, "mask"));
    YL_CHECK(needs_alpha(image));
    const RowCodec mask_codec = number_codec(mask.format);
    if (mask_codec.load == nullptr || mask.width != image.width || mask.height != image.height)
        return fail(ErrorKind::usage,
                    fmt::format("a mask of {} x {} does not fit {} x {} pixels; resize it first",
                                mask.width, mask.height, image.width, image.height));
    edit_rows(image, number_codec(image.format), [&](std::vector<float>& rgba, std::uint32_t y) {
        std::vector<float> weights(rgba.size());
        mask_codec.load(mask.row(y).data(), weights.data(), mask.width);
        for (std::size_t i = 0; i < rgba.size(); i += 4)
            rgba[i + 3] *= weights[i];
    });
    return {};
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
