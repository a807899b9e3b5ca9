#include "describe.hpp"

#include <fmt/format.h>
#include <unistd.h>

#include <limits>

#include "terminal.hpp"

namespace ylat {

std::string byte_text(std::uint64_t bytes) {
    static constexpr const char* units[] = {"bytes", "KiB", "MiB", "GiB", "TiB"};
    auto amount = static_cast<double>(bytes);
    std::size_t unit = 0;
    for (; amount >= 1024 && unit + 1 < std::size(units); ++unit)
        amount /= 1024;
    return unit == 0 ? count_text(bytes, "byte") : fmt::format("{:.2f} {}", amount, units[unit]);
}

std::string size_text(std::uint32_t width, std::uint32_t height) {
    return fmt::format("{} x {}", width, height);
}

std::string count_text(std::uint64_t count, std::string_view thing) {
    return fmt::format("{} {}{}", count, thing, count == 1 ? "" : "s");
}

std::string shape_text(const yl::TextureShape& shape) {
    return count_text(shape.levels, "level") + parts_text(shape);
}

std::string parts_text(const yl::TextureShape& shape) {
    std::string text;
    if (shape.is_array || shape.layers > 1)
        text += ", " + count_text(shape.layers, "layer");
    if (shape.faces > 1)
        text += ", " + count_text(shape.faces, "face");
    if (shape.depth > 1)
        text += ", " + count_text(shape.depth, "slice");
    return text;
}

std::string channel_text(std::uint32_t channels) {
    static constexpr const char* names[] = {"none", "gray", "gray and alpha", "RGB", "RGBA"};
    return names[channels <= 4 ? channels : 0];
}

std::string_view transfer_text(yl::Transfer transfer) {
    return transfer == yl::Transfer::srgb ? "sRGB" : "linear";
}

std::string_view alpha_text(yl::AlphaMode mode) {
    switch (mode) {
        case yl::AlphaMode::straight:
            return "straight";
        case yl::AlphaMode::premultiplied:
            return "premultiplied";
        case yl::AlphaMode::data:
            return "data";
        case yl::AlphaMode::opaque:
            return "opaque";
    }
    return "straight";
}

std::string_view origin_text(yl::Origin origin) {
    return origin == yl::Origin::top ? "top" : "bottom";
}

std::string row_text(std::string_view name, std::string_view value) {
    constexpr std::size_t indent = 14;
    if (!is_terminal(STDOUT_FILENO))
        return fmt::format("  {:<11} {}", name, value);
    const auto lines = wrapped(value, terminal_columns(STDOUT_FILENO) - indent);
    return fmt::format("  {:<11} {}", name, fmt::join(lines, fmt::format("\n{:{}}", "", indent)));
}

namespace {

bool is_number(const std::string& cell) {
    return cell.find_first_not_of("0123456789.") == std::string::npos;
}

/// Makes the widest columns of words narrower until the table fits.
void fit_columns(std::vector<std::size_t>& widths, const std::vector<bool>& is_used,
                 const std::vector<bool>& is_numeric, std::size_t most) {
    constexpr std::size_t min = 12;
    const auto total = [&] {
        std::size_t sum = 0;
        for (std::size_t i = 0; i < widths.size(); ++i)
            sum += is_used[i] ? widths[i] + 2 : 0;
        return sum;
    };
    while (total() > most) {
        std::size_t widest = widths.size();
        for (std::size_t i = 0; i < widths.size(); ++i)
            if (is_used[i] && !is_numeric[i] &&
                (widest == widths.size() || widths[i] > widths[widest]))
                widest = i;
        if (widest == widths.size() || widths[widest] <= min)
            return;
        --widths[widest];
    }
}

/// A cell that fits: what is too long loses its middle, since paths differ at their ends.
std::string shortened(const std::string& cell, std::size_t width) {
    constexpr std::string_view dots = "...";
    if (cell.size() <= width)
        return cell;
    const std::size_t head = (width - dots.size()) / 2, tail = width - dots.size() - head;
    return cell.substr(0, head) + std::string(dots) + cell.substr(cell.size() - tail);
}

}  // namespace

std::string table_text(const std::vector<std::vector<std::string>>& lines) {
    return is_terminal(STDOUT_FILENO) ? table_text(lines, terminal_columns(STDOUT_FILENO))
                                      : table_text(lines, std::numeric_limits<std::size_t>::max());
}

std::string table_text(const std::vector<std::vector<std::string>>& lines, std::size_t most) {
    std::vector<std::size_t> widths(lines.front().size());
    std::vector<bool> is_used(widths.size()), is_numeric(widths.size(), true);
    for (const auto& line : lines)
        for (std::size_t i = 0; i < line.size(); ++i) {
            const bool is_heading = &line == &lines.front();
            widths[i] = std::max(widths[i], line[i].size());
            is_used[i] = is_used[i] || (!is_heading && !line[i].empty());
            is_numeric[i] = is_numeric[i] && (is_heading || is_number(line[i]));
        }
    fit_columns(widths, is_used, is_numeric, most);
    std::string text;
    for (const auto& line : lines) {
        std::string row;
        for (std::size_t i = 0; i < line.size(); ++i)
            if (is_used[i])
                row += is_numeric[i]
                           ? fmt::format("{:>{}}  ", line[i], widths[i])
                           : fmt::format("{:<{}}  ", shortened(line[i], widths[i]), widths[i]);
        row.erase(row.find_last_not_of(' ') + 1);
        text += (text.empty() ? "" : "\n") + row;
    }
    return text;
}

}  // namespace ylat
