#include "codec/pnm/header.hpp"

#include <fmt/format.h>

#include <charconv>

#include <yl/status_macros.hpp>

namespace yl::pnm {
namespace {

constexpr std::size_t longest_word = 64;

bool is_space(char letter) {
    return letter == ' ' || (letter >= '\t' && letter <= '\r');
}

}  // namespace

Result<char> HeaderReader::next() {
    YL_TRY(const auto byte, reader_.read<std::uint8_t>());
    line_has_ended_ = byte == '\n';
    return static_cast<char>(byte);
}

Result<char> HeaderReader::skip_space() {
    while (true) {
        YL_TRY(char letter, next());
        if (letter == '#') {
            while (letter != '\n') {
                YL_TRY(letter, next());
            }
        } else if (!is_space(letter)) {
            return letter;
        }
    }
}

Result<std::string> HeaderReader::word() {
    YL_TRY(char letter, skip_space());
    std::string text;
    while (!is_space(letter)) {
        if (text.size() == longest_word)
            return fail(ErrorKind::malformed, "the header holds a word that is too long",
                        reader_.offset());
        text += letter;
        // The last sample of a text file may end with the file.
        if (reader_.left() == 0)
            break;
        YL_TRY(letter, next());
    }
    return text;
}

Status HeaderReader::rest_of_line() {
    if (line_has_ended_)
        return {};
    for (char letter = 0; letter != '\n';) {
        YL_TRY(letter, next());
    }
    return {};
}

Result<std::uint32_t> HeaderReader::number(const char* name) {
    const std::size_t offset = reader_.offset();
    YL_TRY(const std::string text, word());
    std::uint32_t value = 0;
    const auto [end, error] = std::from_chars(text.data(), text.data() + text.size(), value);
    if (error == std::errc::result_out_of_range)
        return fail(ErrorKind::malformed, fmt::format("the {} is too large", name), offset);
    if (error != std::errc{} || end != text.data() + text.size())
        return fail(ErrorKind::malformed, fmt::format("the {} is not a number", name), offset);
    return value;
}

Result<bool> HeaderReader::bit() {
    YL_TRY(const char letter, skip_space());
    if (letter != '0' && letter != '1')
        return fail(ErrorKind::malformed, "a pixel is neither 0 nor 1", reader_.offset() - 1);
    return letter == '1';
}

}  // namespace yl::pnm
