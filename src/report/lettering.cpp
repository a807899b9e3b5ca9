#include "report/lettering.hpp"

#include <algorithm>

namespace yl {
namespace {

struct Glyph {
    int advance, left, top, width, height, offset;
};

struct GlyphRange {
    char32_t first, last;
};

#include "report/font/glyphs.inc"  // made by report/font/make_glyphs.cpp

struct Font {
    const Glyph* glyphs;
    const unsigned char* coverage;
    int ascent;
    int line;
};

const Font& font(TextSize size) {
    static constexpr Font small{small_glyphs, small_coverage, small_ascent, small_line};
    static constexpr Font large{large_glyphs, large_coverage, large_ascent, large_line};
    return size == TextSize::small ? small : large;
}

std::size_t glyph_index(char32_t character) {
    std::size_t before = 0;
    for (const GlyphRange& range : glyph_ranges) {
        if (character >= range.first && character <= range.last)
            return before + (character - range.first);
        before += range.last - range.first + 1;
    }
    return '?' - ' ';
}

/// How many bytes of the text fit into the width.
std::size_t fitting_bytes(std::string_view text, TextSize size, std::uint32_t width) {
    std::string_view rest = text;
    std::uint32_t used = 0;
    while (!rest.empty()) {
        const std::size_t here = text.size() - rest.size();
        used += static_cast<std::uint32_t>(letter(take_character(rest), size).advance);
        if (used > width)
            return here;
    }
    return text.size();
}

}  // namespace

char32_t take_character(std::string_view& text) {
    constexpr char32_t invalid = 0xFFFD;
    const auto byte = [&](std::size_t i) { return static_cast<unsigned char>(text[i]); };
    const unsigned char first = byte(0);
    // 0xxxxxxx, 110xxxxx 10xxxxxx, 1110xxxx 10xxxxxx 10xxxxxx, 11110xxx and three more
    const std::size_t length = first < 0x80             ? 1
                               : (first & 0xE0) == 0xC0 ? 2
                               : (first & 0xF0) == 0xE0 ? 3
                               : (first & 0xF8) == 0xF0 ? 4
                                                        : 0;
    char32_t character = length == 1 ? first : first & (0xFFU >> (length + 1));
    bool is_sound = length > 0 && length <= text.size();
    for (std::size_t i = 1; is_sound && i < length; ++i) {
        is_sound = (byte(i) & 0xC0) == 0x80;
        character = character << 6 | (byte(i) & 0x3FU);
    }
    text.remove_prefix(is_sound ? length : 1);
    return is_sound ? character : invalid;
}

Letter letter(char32_t character, TextSize size) {
    const Font& f = font(size);
    const Glyph& glyph = f.glyphs[glyph_index(character)];
    return {glyph.advance, glyph.left,   f.ascent - glyph.top,
            glyph.width,   glyph.height, f.coverage + glyph.offset};
}

std::uint32_t line_height(TextSize size) {
    return static_cast<std::uint32_t>(font(size).line);
}

std::uint32_t text_width(std::string_view text, TextSize size) {
    int width = 0;
    while (!text.empty())
        width += letter(take_character(text), size).advance;
    return static_cast<std::uint32_t>(width);
}

std::vector<std::string> break_lines(std::string_view text, TextSize size, std::uint32_t width) {
    std::vector<std::string> lines;
    while (!text.empty()) {
        const std::size_t end = std::min(text.find(' '), text.size());
        std::string_view word = text.substr(0, end);
        text.remove_prefix(std::min(end + 1, text.size()));
        if (!lines.empty() && text_width(lines.back() + ' ' + std::string(word), size) <= width) {
            lines.back() += ' ' + std::string(word);
            continue;
        }
        do {
            std::string_view rest = word;
            static_cast<void>(rest.empty() ? 0 : take_character(rest));
            const std::size_t one = word.size() - rest.size();
            const std::size_t fits = std::max(fitting_bytes(word, size, width), one);
            lines.emplace_back(word.substr(0, fits));
            word.remove_prefix(fits);
        } while (!word.empty());
    }
    return lines;
}

std::string cut_to_width(std::string_view text, TextSize size, std::uint32_t width) {
    constexpr std::string_view ellipsis = "\xE2\x80\xA6";
    if (text_width(text, size) <= width)
        return std::string(text);
    const std::uint32_t own = text_width(ellipsis, size);
    const std::size_t fits = own < width ? fitting_bytes(text, size, width - own) : 0;
    return std::string(text.substr(0, fits)) + std::string(ellipsis);
}

}  // namespace yl
