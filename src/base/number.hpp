// Numbers out of text.
#pragma once

#include <charconv>
#include <string_view>
#include <type_traits>

#ifndef __cpp_lib_to_chars  // a standard library that reads integers alone
#include <cerrno>
#include <cstdlib>
#include <string>
#endif

namespace yl {

#ifndef __cpp_lib_to_chars
/// By strtod, which rounds as well; what it takes and std::from_chars does not (spaces, a plus sign,
/// hexadecimal digits) is kept from it. There are no locales where this is compiled.
template <class Float>
[[nodiscard]] std::from_chars_result float_from_chars(const char* begin, const char* end,
                                                      Float& number) {
    constexpr std::string_view starts = "-.0123456789iInN";
    const std::string_view given(begin, end);
    const std::string text(given.substr(0, given.find_first_of(" \t\r\n,;xX")));
    if (text.empty() || starts.find(text[0]) == std::string_view::npos)
        return {begin, std::errc::invalid_argument};
    char* stop = nullptr;
    errno = 0;
    Float read = 0;
    if constexpr (std::is_same_v<Float, float>)
        read = std::strtof(text.c_str(), &stop);
    else
        read = std::strtod(text.c_str(), &stop);
    const char* next = begin + (stop - text.c_str());
    if (next == begin)
        return {begin, std::errc::invalid_argument};
    if (errno == ERANGE && (read == 0 || read - read != 0))
        return {next, std::errc::result_out_of_range};
    number = read;
    return {next, std::errc{}};
}
#endif

/// std::from_chars, of floating point everywhere.
template <class Number>
[[nodiscard]] std::from_chars_result number_from_chars(const char* begin, const char* end,
                                                       Number& number) {
#ifdef __cpp_lib_to_chars
    return std::from_chars(begin, end, number);
#else
    if constexpr (std::is_floating_point_v<Number>) {
        return float_from_chars(begin, end, number);
    } else {
        return std::from_chars(begin, end, number);
    }
#endif
}

}  // namespace yl
