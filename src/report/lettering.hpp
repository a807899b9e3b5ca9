// Letters of labels in pictures: how wide a text is, where it breaks, what a letter looks like.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>
#include <vector>

namespace yl {

enum class TextSize { small, large };

[[nodiscard]] std::uint32_t line_height(TextSize size);
/// `text` is UTF-8, here and below.
[[nodiscard]] std::uint32_t text_width(std::string_view text, TextSize size);

/// Breaks the text into lines of at most `width` pixels: at spaces, and within a word where it is
/// wider than a line.
[[nodiscard]] std::vector<std::string> break_lines(std::string_view text, TextSize size,
                                                   std::uint32_t width);

/// The text, or as much of its beginning as fits with an ellipsis.
[[nodiscard]] std::string cut_to_width(std::string_view text, TextSize size, std::uint32_t width);

/// Takes the first character from the text; what is not UTF-8 is taken byte by byte as U+FFFD.
[[nodiscard]] char32_t take_character(std::string_view& text);

/// How a character is drawn; those without a glyph look like a question mark.
struct Letter {
    int advance = 0;          ///< pixels to the next one
    int left = 0, below = 0;  ///< pixels from the pen and the top of the line to its first pixel
    int width = 0, height = 0;
    const unsigned char* coverage = nullptr;  ///< row by row, 0 .. 255
};

[[nodiscard]] Letter letter(char32_t character, TextSize size);

}  // namespace yl
