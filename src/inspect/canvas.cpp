#include "inspect/canvas.hpp"

#include <algorithm>

#include "base/attempt.hpp"

namespace yl {
namespace {

struct Glyph {
    int advance, left, top, width, height, offset;
};

#include "glyphs.inc"  // made by font/make_glyphs.cpp

struct Font {
    const Glyph* glyphs;
    const unsigned char* coverage;
    int ascent;
    int line;

    [[nodiscard]] const Glyph& glyph(char character) const {
        const bool printable = character >= ' ' && character <= '~';
        return glyphs[(printable ? character : '?') - ' '];
    }
};

const Font& font(TextSize size) {
    static constexpr Font small{small_glyphs, small_coverage, small_ascent, small_line};
    static constexpr Font large{large_glyphs, large_coverage, large_ascent, large_line};
    return size == TextSize::small ? small : large;
}

}  // namespace

std::uint32_t line_height(TextSize size) {
    return static_cast<std::uint32_t>(font(size).line);
}

std::uint32_t text_width(std::string_view text, TextSize size) {
    int width = 0;
    for (const char character : text)
        width += font(size).glyph(character).advance;
    return static_cast<std::uint32_t>(width);
}

std::vector<std::string> break_lines(std::string_view text, TextSize size, std::uint32_t width) {
    std::vector<std::string> lines;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find(' '), text.size());
        const std::string_view word = text.substr(0, end);
        text.remove_prefix(std::min(end + 1, text.size()));
        if (!lines.empty() && text_width(lines.back() + ' ' + std::string(word), size) <= width)
            lines.back() += ' ' + std::string(word);
        else
            lines.emplace_back(word);
    }
    return lines;
}

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
    const Font& f = font(size);
    std::int64_t pen = x;
    for (const char character : text) {
        const Glyph& glyph = f.glyph(character);
        for (int row = 0; row < glyph.height; ++row)
            for (int column = 0; column < glyph.width; ++column)
                blend_pixel(pen + glyph.left + column, std::int64_t{y} + f.ascent - glyph.top + row,
                            color, f.coverage[glyph.offset + row * glyph.width + column]);
        pen += glyph.advance;
    }
}

}  // namespace yl
