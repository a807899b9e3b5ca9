// Text from files, made fit for messages.
#pragma once

#include <fmt/format.h>

#include <filesystem>
#include <string>
#include <string_view>

namespace yl {

/// `text` with every byte outside printable ASCII written as \xNN, cut after `max_length` letters:
/// what a file holds must not reach a terminal as it is.
[[nodiscard]] inline std::string printable(std::string_view text, std::size_t max_length = 60) {
    std::string result;
    for (const char letter : text.substr(0, max_length)) {
        if (letter >= ' ' && letter <= '~')
            result += letter;
        else
            result += fmt::format("\\x{:02x}", static_cast<unsigned char>(letter));
    }
    return text.size() > max_length ? result + "..." : result;
}

/// `text` without spaces, tabs and carriage returns at either end.
[[nodiscard]] inline std::string_view trimmed(std::string_view text) {
    const std::size_t begin = text.find_first_not_of(" \t\r");
    if (begin == std::string_view::npos)
        return {};
    return text.substr(begin, text.find_last_not_of(" \t\r") - begin + 1);
}

/// `text` with the capitals of ASCII made small.
[[nodiscard]] inline std::string lower_case(std::string text) {
    for (char& letter : text)
        if (letter >= 'A' && letter <= 'Z')
            letter = static_cast<char>(letter - 'A' + 'a');
    return text;
}

/// What a file's name ends in, in small letters and without its point.
[[nodiscard]] inline std::string ending_of(const std::filesystem::path& path) {
    const std::string ending = path.extension().string();
    return ending.empty() ? ending : lower_case(ending.substr(1));
}

/// Numbers as people write them may begin with a plus sign, which std::from_chars refuses.
[[nodiscard]] inline std::string_view without_plus(std::string_view number) {
    const bool has_plus = number.size() > 1 && number[0] == '+' && number[1] != '-';
    return has_plus ? number.substr(1) : number;
}

}  // namespace yl
