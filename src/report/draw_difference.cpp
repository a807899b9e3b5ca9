// Differences as colours, with a legend.
#include <fmt/format.h>

#include <algorithm>

#include <yl/sheet.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "measure/difference.hpp"
#include "pixel/check.hpp"
#include "report/canvas.hpp"

namespace yl {
namespace {

constexpr std::uint32_t legend_height = 14;
constexpr std::uint32_t legend_min_width = 160;

/// Steps of even lightness, so that twice the error looks about twice as bright.
constexpr std::array<Color8, 6> ramp = {
    {{14, 20, 18}, {20, 62, 54}, {46, 112, 66}, {140, 158, 58}, {244, 211, 94}, {255, 251, 232}}};

Color8 color_of(double share) {
    const double place = std::clamp(share, 0.0, 1.0) * (ramp.size() - 1);
    const auto step = std::min(static_cast<std::size_t>(place), ramp.size() - 2);
    const double rest = place - static_cast<double>(step);
    Color8 color{};
    for (std::size_t c = 0; c < 3; ++c)
        color[c] = static_cast<std::uint8_t>(ramp[step][c] +
                                             rest * (ramp[step + 1][c] - ramp[step][c]) + 0.5);
    return color;
}

std::string mark(double value, const char* unit) {
    return fmt::format("{:.3g}{}", value, unit);
}

/// The colours from 0 to `full`, with three marks below.
void draw_legend(Canvas& canvas, std::uint32_t top, std::uint32_t width, double full,
                 const char* unit) {
    for (std::uint32_t x = 0; x < width; ++x)
        canvas.fill(x, top, 1, legend_height, color_of(static_cast<double>(x) / (width - 1)));
    const std::uint32_t line = top + legend_height + 3;
    canvas.text(0, line, "0", TextSize::small, title_ink);
    const std::string middle = mark(full / 2, "");
    canvas.text((width - text_width(middle, TextSize::small)) / 2, line, middle, TextSize::small,
                title_ink);
    const std::string last = mark(full, unit);
    canvas.text(width - std::min(width, text_width(last, TextSize::small)), line, last,
                TextSize::small, title_ink);
}

}  // namespace

Result<Image> draw_difference(ConstImageView a, ConstImageView b, double full,
                              const DifferenceOptions& options) try {
    YL_CHECK(check_view(a, "a"));
    YL_CHECK(check_view(b, "b"));
    if (!(full > 0))
        return fail(ErrorKind::usage, "the greatest difference shown has to be above 0");
    YL_TRY(const ComparedImages images, compared(a, b, options));
    const std::uint32_t width = std::max(images.width, legend_min_width);
    YL_TRY(Image map, Image::create(Format::rgba8_srgb, images.width, images.height));
    for (std::uint32_t y = 0; y < images.height; ++y)
        for (std::size_t x = 0; x < images.width; ++x) {
            const double off =
                pixel_difference(images, images.row_a(y) + 4 * x, images.row_b(y) + 4 * x);
            const Color8 color = color_of(off / full);
            std::byte* pixel = map.view().row(y).data() + 4 * x;
            for (std::size_t c = 0; c < 3; ++c)
                pixel[c] = std::byte{color[c]};
            pixel[3] = std::byte{255};
        }
    const std::uint32_t legend = legend_height + line_height(TextSize::small) + 12;
    YL_TRY(Canvas canvas, Canvas::create(width, images.height + legend, paper));
    canvas.place(0, 0, std::as_const(map).view());
    draw_legend(canvas, images.height + 6, width, full, images.is_light ? " stops" : " codes");
    return std::move(canvas).take();
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
