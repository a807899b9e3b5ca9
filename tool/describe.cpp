#include "describe.hpp"

#include <fmt/format.h>

namespace ylat {

std::string byte_text(std::uint64_t bytes) {
    static constexpr const char* units[] = {"bytes", "KiB", "MiB", "GiB", "TiB"};
    auto amount = static_cast<double>(bytes);
    std::size_t unit = 0;
    for (; amount >= 1024 && unit + 1 < std::size(units); ++unit)
        amount /= 1024;
    return unit == 0 ? fmt::format("{} bytes", bytes)
                     : fmt::format("{:.2f} {}", amount, units[unit]);
}

std::string size_text(std::uint32_t width, std::uint32_t height) {
    return fmt::format("{} x {}", width, height);
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
    return fmt::format("  {:<11} {}", name, value);
}

namespace {

bool is_number(const std::string& cell) {
    return cell.find_first_not_of("0123456789.") == std::string::npos;
}

}  // namespace

std::string table_text(const std::vector<std::vector<std::string>>& lines) {
    std::vector<std::size_t> widths(lines.front().size());
    std::vector<bool> is_used(widths.size()), is_numeric(widths.size(), true);
    for (const auto& line : lines)
        for (std::size_t i = 0; i < line.size(); ++i) {
            const bool is_heading = &line == &lines.front();
            widths[i] = std::max(widths[i], line[i].size());
            is_used[i] = is_used[i] || (!is_heading && !line[i].empty());
            is_numeric[i] = is_numeric[i] && (is_heading || is_number(line[i]));
        }
    std::string text;
    for (const auto& line : lines) {
        std::string row;
        for (std::size_t i = 0; i < line.size(); ++i)
            if (is_used[i])
                row += is_numeric[i] ? fmt::format("{:>{}}  ", line[i], widths[i])
                                     : fmt::format("{:<{}}  ", line[i], widths[i]);
        row.erase(row.find_last_not_of(' ') + 1);
        text += (text.empty() ? "" : "\n") + row;
    }
    return text;
}

}  // namespace ylat
