// Numbers out of text.
#pragma once

#include <charconv>
#include <type_traits>

#ifndef __cpp_lib_to_chars  // a standard library that reads integers alone
#include <fast_float/fast_float.h>
#endif

namespace yl {

/// std::from_chars, of floating point everywhere.
template <class Number>
[[nodiscard]] std::from_chars_result number_from_chars(const char* begin, const char* end,
                                                       Number& number) {
#ifdef __cpp_lib_to_chars
    return std::from_chars(begin, end, number);
#else
    if constexpr (std::is_floating_point_v<Number>) {
        Number read = 0;
        const auto result = fast_float::from_chars(begin, end, read);
        if (result.ec == std::errc{})
            number = read;
        return {result.ptr, result.ec};
    } else {
        return std::from_chars(begin, end, number);
    }
#endif
}

}  // namespace yl
