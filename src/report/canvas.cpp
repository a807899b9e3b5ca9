#include "report/canvas.hpp"

#include <algorithm>

#include <yl/status_macros.hpp>

namespace yl {

Result<Canvas> Canvas::create(std::uint32_t width, std::uint32_t height, Color8 background) {
    Canvas canvas;
    YL_TRY(canvas.picture_, Image::create(Format::rgba8_srgb, width, height));
    canvas.fill(0, 0, width, height, background);
    return canvas;
}

void Canvas::blend_pixel(std::int64_t x, std::int64_t y, Color8 color, int coverage) {
    if (x < 0 || y < 0 || x >= picture_.width() || y >= picture_.height())
        return;
    std::byte* pixel = picture_.view().row(static_cast<std::uint32_t>(y)).data() + 4 * x;
    for (std::size_t c = 0; c < 3; ++c) {
        const int under = std::to_integer<int>(pixel[c]);
        pixel[c] =
            static_cast<std::byte>((under * (255 - coverage) + color[c] * coverage + 127) / 255);
    }
    pixel[3] = std::byte{255};
}

void Canvas::fill(std::uint32_t x, std::uint32_t y, std::uint32_t width, std::uint32_t height,
                  Color8 color) {
    const std::array texel = {std::byte{color[0]}, std::byte{color[1]}, std::byte{color[2]},
                              std::byte{255}};
    for (std::uint32_t row = y; row < std::min(y + height, picture_.height()); ++row)
        for (std::uint32_t column = x; column < std::min(x + width, picture_.width()); ++column)
            std::ranges::copy(texel, &picture_.view().row(row)[std::size_t{4} * column]);
}

void Canvas::place(std::uint32_t x, std::uint32_t y, ConstImageView picture) {
    const std::uint32_t columns =
        x < picture_.width() ? std::min(picture.width, picture_.width() - x) : 0;
    for (std::uint32_t row = 0; row < picture.height && y + row < picture_.height(); ++row)
        std::copy_n(picture.row(row).data(), std::size_t{columns} * 4,
                    picture_.view().row(y + row).data() + std::size_t{x} * 4);
}

void Canvas::text(std::uint32_t x, std::uint32_t y, std::string_view text, TextSize size,
                  Color8 color) {
    std::int64_t pen = x;
    while (!text.empty()) {
        const Letter shape = letter(take_character(text), size);
        for (int row = 0; row < shape.height; ++row)
            for (int column = 0; column < shape.width; ++column)
                blend_pixel(pen + shape.left + column, std::int64_t{y} + shape.below + row, color,
                            shape.coverage[row * shape.width + column]);
        pen += shape.advance;
    }
}

}  // namespace yl
