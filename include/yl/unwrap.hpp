// Results without a check of one's own: as exceptions, or for programs that have nothing to do
// without the value.
//
//     yl::Picture picture = yl::or_exit(yl::read_picture("leaf.png"));
#pragma once

#include <cstdio>
#include <cstdlib>
#include <stdexcept>
#include <utility>
#include <yl/result.hpp>

namespace yl {

/// An error as an exception; its text is `error.sentence()`.
class ErrorException : public std::runtime_error {
 public:
    explicit ErrorException(Error error)
        : std::runtime_error(error.sentence()), error_(std::move(error)) {}
    [[nodiscard]] const Error& error() const { return error_; }

 private:
    Error error_;
};

/// The value; throws `ErrorException` where there is none.
template <class T>
T or_throw(Result<T> result) {
    if (!result)
        throw ErrorException(std::move(result).error());
    if constexpr (!std::is_void_v<T>)
        return std::move(*result);
}

/// The value; without one, the sentence goes to standard error and the program ends with `code`.
template <class T>
T or_exit(Result<T> result, int code = EXIT_FAILURE) {
    if (!result) {
        std::fprintf(stderr, "%s\n", result.error().sentence().c_str());
        std::exit(code);
    }
    if constexpr (!std::is_void_v<T>)
        return std::move(*result);
}

}  // namespace yl
