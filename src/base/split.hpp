// Text taken apart.
#pragma once

#include <string_view>
#include <vector>

namespace yl {

/// The parts between separators; one part when there is none.
[[nodiscard]] inline std::vector<std::string_view> split(std::string_view text, char separator) {
    std::vector<std::string_view> parts;
    while (true) {
        const std::size_t end = text.find(separator);
        parts.push_back(text.substr(0, end));
        if (end == std::string_view::npos)
            return parts;
        text.remove_prefix(end + 1);
    }
}

}  // namespace yl
