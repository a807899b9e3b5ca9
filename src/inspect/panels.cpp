#include <yl/panels.hpp>

#include <algorithm>

#include <yl/numeric.hpp>
#include "base/attempt.hpp"
#include "base/out_of_memory.hpp"
#include "inspect/canvas.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

constexpr std::uint32_t gap = 12;
constexpr Color8 note_ink = {0xA9, 0xB0, 0xA4};

struct Label {
    std::vector<std::string> title;
    std::vector<std::string> note;

    [[nodiscard]] std::uint32_t height() const {
        return static_cast<std::uint32_t>(title.size() + note.size()) *
               line_height(TextSize::small);
    }
};

/// Cells of equal width; rows as high as their highest picture with its label.
struct Grid {
    std::uint32_t columns = 1;
    std::uint32_t cell_width = 0;
    std::vector<Label> labels;
    std::vector<std::uint32_t> row_tops;
    std::uint32_t height = 0;
};

Grid lay_out(const std::vector<LabelledPicture>& pictures, std::uint32_t columns,
             std::uint32_t top) {
    Grid grid;
    grid.columns = std::clamp(columns, 1U, static_cast<std::uint32_t>(pictures.size()));
    for (const LabelledPicture& item : pictures)
        grid.cell_width = std::max(grid.cell_width, item.picture.width());
    for (std::size_t i = 0; i < pictures.size(); ++i) {
        grid.labels.push_back({break_lines(pictures[i].title, TextSize::small, grid.cell_width),
                               break_lines(pictures[i].note, TextSize::small, grid.cell_width)});
        if (i % grid.columns == 0)
            grid.row_tops.push_back(i == 0 ? top : grid.height);
        grid.height =
            std::max(grid.height, grid.row_tops.back() + pictures[i].picture.height() + gap / 2 +
                                      grid.labels.back().height() + page_margin);
    }
    return grid;
}

}  // namespace

Result<Image> arrange_panels(const std::vector<LabelledPicture>& pictures, std::uint32_t columns,
                             const std::string& heading) try {
    if (pictures.empty())
        return fail(ErrorKind::usage, "there are no pictures to arrange");
    for (const LabelledPicture& item : pictures)
        if (item.picture.format() != Format::rgba8_srgb)
            return fail(ErrorKind::usage, "pictures to arrange have to be rgba8-srgb");
    const std::uint32_t top =
        heading.empty() ? page_margin : page_margin + line_height(TextSize::large) + gap;
    const Grid grid = lay_out(pictures, columns, top);
    const std::uint32_t width =
        std::max(2 * page_margin + grid.columns * (grid.cell_width + gap) - gap,
                 2 * page_margin + text_width(heading, TextSize::large));
    YL_TRY(Canvas canvas, Canvas::create(width, grid.height, paper));
    canvas.text(page_margin, page_margin, heading, TextSize::large, heading_ink);
    for (std::uint32_t i = 0; i < pictures.size(); ++i) {
        const Image& picture = pictures[i].picture;
        const std::uint32_t x = page_margin + i % grid.columns * (grid.cell_width + gap);
        std::uint32_t y = grid.row_tops[i / grid.columns];
        canvas.place(x, y, picture.view());
        y += picture.height() + gap / 2;
        const auto write = [&](const std::vector<std::string>& lines, Color8 ink) {
            for (const std::string& line : lines) {
                canvas.text(x, y, line, TextSize::small, ink);
                y += line_height(TextSize::small);
            }
        };
        write(grid.labels[i].title, title_ink);
        write(grid.labels[i].note, note_ink);
    }
    return std::move(canvas).take();
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Image> with_keys(ConstImageView picture, const std::vector<ColorKey>& keys) try {
    YL_CHECK(check_view(picture, "picture"));
    if (picture.format != Format::rgba8_srgb)
        return fail(ErrorKind::usage, "a picture with keys has to be rgba8-srgb");
    constexpr std::uint32_t patch = 14;
    const std::uint32_t line = line_height(TextSize::small) + 6;
    const auto width_of = [&](const ColorKey& key) {
        return patch + 6 + text_width(key.label, TextSize::small) + 2 * gap;
    };
    std::vector<std::array<std::uint32_t, 2>> places;
    std::uint32_t x = page_margin, y = picture.height + gap;
    for (const ColorKey& key : keys) {
        if (x > page_margin && x + width_of(key) > picture.width) {
            x = page_margin;
            y += line;
        }
        places.push_back({x, y});
        x += width_of(key);
    }
    YL_TRY(Canvas canvas, Canvas::create(picture.width, y + line + gap / 2, paper));
    canvas.place(0, 0, picture);
    for (std::size_t i = 0; i < keys.size(); ++i) {
        Color8 color{};
        for (std::size_t c = 0; c < 3; ++c)
            color[c] = linear_to_srgb8(keys[i].color[c]);
        canvas.fill(places[i][0], places[i][1] + 2, patch, patch, color);
        canvas.text(places[i][0] + patch + 6, places[i][1], keys[i].label, TextSize::small,
                    title_ink);
    }
    return std::move(canvas).take();
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
