// Results and errors as values: nothing in this library throws on bad input.
#pragma once

#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <optional>
#include <stdexcept>
#include <string>
#include <string_view>
#include <tl/expected.hpp>
#include <utility>
#include <yl/api.hpp>

namespace yl {

/// The kind of an error, for programs to decide by; the message is for people.
enum class ErrorKind {
    usage,        ///< invalid arguments
    malformed,    ///< the bytes violate their file format
    unsupported,  ///< valid, but not supported
    limit,        ///< exceeds `Limits` or a limit of the device
    memory,       ///< out of memory, in the system or on the device
    missing,      ///< no such file or folder
    forbidden,    ///< no permission to read or write a file
    full,         ///< the disk or quota is full
    interrupted,  ///< interrupted by a signal
    io,           ///< any other failure to open, read or write a file
    device,       ///< no such device, or it refused
    cancelled,    ///< by the program's callback
};

/// "usage", "malformed" ...
[[nodiscard]] YL_API std::string_view name(ErrorKind kind);

/// Whether the file system failed: `missing`, `forbidden`, `full`, `interrupted` or `io`.
[[nodiscard]] YL_API bool is_file_error(ErrorKind kind);

/// One error: a sentence, and where it happened.
struct YL_API Error {
    ErrorKind kind = ErrorKind::malformed;
    std::string message = {};                  ///< what is wrong and how to fix it
    std::string place = {};                    ///< a file or an argument; may be empty
    std::optional<std::uint64_t> offset = {};  ///< byte offset in the file, if known

    /// `place: byte offset: message`, without the parts that are unknown.
    [[nodiscard]] std::string sentence() const;
};

/// A value or an error. Every function that returns a `Result` can fail with `ErrorKind::memory`,
/// which is not repeated in its comment.
template <class T>
using Result = tl::expected<T, Error>;

/// Success or an error.
using Status = Result<void>;

/// Creates the error that a failing function returns.
[[nodiscard]] inline tl::unexpected<Error> fail(ErrorKind kind, std::string message,
                                                std::optional<std::uint64_t> offset = {}) {
    return tl::unexpected<Error>(Error{kind, std::move(message), {}, offset});
}

/// Adds a place to an error that has none.
[[nodiscard]] inline tl::unexpected<Error> fail_at(Error error, std::string place) {
    if (error.place.empty())
        error.place = std::move(place);
    return tl::unexpected<Error>(std::move(error));
}

#if defined(__cpp_exceptions)
/// An error as an exception; its text is `error.sentence()`.
class YL_API ErrorException : public std::runtime_error {
 public:
    explicit ErrorException(Error error)
        : std::runtime_error(error.sentence()), error_(std::move(error)) {}
    [[nodiscard]] const Error& error() const { return error_; }

 private:
    Error error_;
};

/// Returns the value or throws `ErrorException`.
template <class T>
T or_throw(Result<T> result) {
    if (!result)
        throw ErrorException(std::move(result).error());
    if constexpr (!std::is_void_v<T>)
        return std::move(*result);
}
#endif

/// Returns the value, or prints the error to standard error and exits with `code`.
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
