#include <yl/sheet.hpp>

#include <algorithm>

#include <yl/format.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"
#include "report/canvas.hpp"
#include "report/panel_sizes.hpp"

namespace yl {
namespace {

constexpr std::uint32_t gap = 12;
constexpr Color8 note_ink = {0xA9, 0xB0, 0xA4};

constexpr std::uint32_t widest_label = 240;  ///< pixels that a label may widen its cell to

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
    std::vector<std::string> heading;
    std::vector<Label> labels;
    std::vector<std::uint32_t> row_tops;
    std::uint32_t width = 0, height = 0;
};

std::uint32_t cell_width_of(std::span<const PanelSize> panels) {
    std::uint32_t width = 0;
    for (const PanelSize& panel : panels) {
        const std::uint32_t label = std::max(text_width(panel.title, TextSize::small),
                                             text_width(panel.note, TextSize::small));
        width = std::max({width, panel.width, std::min(label, widest_label)});
    }
    return width;
}

Grid lay_out(std::span<const PanelSize> panels, std::uint32_t columns, std::string_view heading) {
    Grid grid;
    grid.columns = std::clamp(columns, 1U, static_cast<std::uint32_t>(panels.size()));
    grid.cell_width = cell_width_of(panels);
    grid.width = 2 * page_margin + grid.columns * (grid.cell_width + gap) - gap;
    grid.heading = heading_lines(heading, grid.width);
    const std::uint32_t top = page_margin + heading_height(grid.heading);
    grid.width = std::max(grid.width, 2 * page_margin + widest_of(grid.heading));
    for (std::size_t i = 0; i < panels.size(); ++i) {
        grid.labels.push_back({break_lines(panels[i].title, TextSize::small, grid.cell_width),
                               break_lines(panels[i].note, TextSize::small, grid.cell_width)});
        if (i % grid.columns == 0)
            grid.row_tops.push_back(i == 0 ? top : grid.height);
        grid.height = std::max(grid.height, grid.row_tops.back() + panels[i].height + gap / 2 +
                                                grid.labels.back().height() + page_margin);
    }
    return grid;
}

}  // namespace

std::vector<std::string> heading_lines(std::string_view heading, std::uint32_t page_width) {
    constexpr std::uint32_t min_width = 640;
    return break_lines(heading, TextSize::large, std::max(page_width - 2 * page_margin, min_width));
}

std::uint32_t heading_height(const std::vector<std::string>& lines) {
    return lines.empty()
               ? 0
               : static_cast<std::uint32_t>(lines.size()) * line_height(TextSize::large) + gap;
}

std::uint32_t widest_of(const std::vector<std::string>& lines) {
    std::uint32_t width = 0;
    for (const std::string& line : lines)
        width = std::max(width, text_width(line, TextSize::large));
    return width;
}

void write_heading(Canvas& canvas, const std::vector<std::string>& lines) {
    std::uint32_t y = page_margin;
    for (const std::string& line : lines) {
        canvas.text(page_margin, y, line, TextSize::large, heading_ink);
        y += line_height(TextSize::large);
    }
}

std::array<std::uint32_t, 2> panels_size(std::span<const PanelSize> panels, std::uint32_t columns,
                                         std::string_view heading) {
    const Grid grid = lay_out(panels, columns, heading);
    return {grid.width, grid.height};
}

Result<Image> arrange_panels(const std::vector<LabelledPicture>& pictures, std::uint32_t columns,
                             const std::string& heading) try {
    if (pictures.empty())
        return fail(ErrorKind::usage, "there are no pictures to arrange");
    std::vector<PanelSize> sizes;
    for (const LabelledPicture& item : pictures) {
        if (item.picture.format() != Format::rgba8_srgb)
            return fail(ErrorKind::usage, "pictures to arrange have to be rgba8-srgb");
        sizes.push_back({item.picture.width(), item.picture.height(), item.title, item.note});
    }
    const Grid grid = lay_out(sizes, columns, heading);
    YL_TRY(Canvas canvas, Canvas::create(grid.width, grid.height, paper));
    write_heading(canvas, grid.heading);
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
        const std::uint32_t left = places[i][0] + patch + 6;
        canvas.text(left, places[i][1],
                    cut_to_width(keys[i].label, TextSize::small,
                                 picture.width > left ? picture.width - left : 0),
                    TextSize::small, title_ink);
    }
    return std::move(canvas).take();
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
