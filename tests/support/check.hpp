// Checks on results: the error's sentence is shown when one was not expected.
#pragma once

#include <doctest/doctest.h>

#include <yl/result.hpp>

namespace support {

/// The value, or a failed test that shows the error.
template <class T>
T must(yl::Result<T> result) {
    if (!result)
        FAIL(result.error().sentence());
    return std::move(*result);
}

inline void must(const yl::Status& status) {
    if (!status)
        FAIL(status.error().sentence());
}

/// The error of something that has to fail.
template <class T>
yl::Error must_fail(const yl::Result<T>& result) {
    if (result)
        FAIL("this was expected to fail");
    return result.error();
}

inline bool contains(const std::string& text, const std::string& part) {
    return text.find(part) != std::string::npos;
}

}  // namespace support
