// How wide the terminal is, and texts that fit it.
#pragma once

#include <cstddef>
#include <string>
#include <string_view>
#include <vector>

namespace ylat {

/// Of the terminal behind a file descriptor; 100 where there is none. At least 60.
[[nodiscard]] std::size_t terminal_columns(int descriptor);

/// Whether lines that are printed to standard output have to fit a terminal.
[[nodiscard]] bool is_terminal(int descriptor);

/// The text in lines of at most `columns` letters, broken at spaces; longer words stay whole.
[[nodiscard]] std::vector<std::string> wrapped(std::string_view text, std::size_t columns);

}  // namespace ylat
