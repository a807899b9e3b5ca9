#include "terminal.hpp"

#include <sys/ioctl.h>
#include <unistd.h>

#include <algorithm>

namespace ylat {

std::size_t terminal_columns(int descriptor) {
    constexpr std::size_t without = 100, min = 60;
    winsize size{};
    const bool is_known = ::ioctl(descriptor, TIOCGWINSZ, &size) == 0 && size.ws_col > 0;
    return is_known ? std::max<std::size_t>(size.ws_col, min) : without;
}

bool is_terminal(int descriptor) {
    return ::isatty(descriptor) == 1;
}

std::vector<std::string> wrapped(std::string_view text, std::size_t columns) {
    std::vector<std::string> lines;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find(' '), text.size());
        const std::string_view word = text.substr(0, end);
        text.remove_prefix(std::min(end + 1, text.size()));
        if (lines.empty() || lines.back().size() + 1 + word.size() > columns)
            lines.emplace_back(word);
        else
            lines.back().append(" ").append(word);
    }
    return lines;
}

}  // namespace ylat
