// How large labelled pictures will be together, before they are drawn; and the heading above them.
#pragma once

#include <span>

#include "report/canvas.hpp"

namespace yl {

/// A picture that is to be labelled.
struct PanelSize {
    std::uint32_t width = 0, height = 0;
    std::string title = {};
    std::string note = {};
};

/// Width and height of what `arrange_panels` will give.
[[nodiscard]] std::array<std::uint32_t, 2> panels_size(std::span<const PanelSize> panels,
                                                       std::uint32_t columns,
                                                       std::string_view heading);

/// The heading in lines that fit a page, which is at least 640 pixels wide for it.
[[nodiscard]] std::vector<std::string> heading_lines(std::string_view heading,
                                                     std::uint32_t page_width);
[[nodiscard]] std::uint32_t heading_height(const std::vector<std::string>& lines);
[[nodiscard]] std::uint32_t widest_of(const std::vector<std::string>& lines);
void write_heading(Canvas& canvas, const std::vector<std::string>& lines);

}  // namespace yl
