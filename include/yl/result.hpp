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

/// What sort of thing went wrong; a program decides by it, a person reads the message.
enum class ErrorKind {
    usage,        ///< the caller's arguments do not fit together
    malformed,    ///< the bytes break the rules of their file format
    unsupported,  ///< well formed, but a variant that is not handled
    limit,        ///< larger than `Limits` or a device allow
    memory,       ///< the system or the device has no memory left
    missing,      ///< there is no such file or folder
    forbidden,    ///< a file that may not be read or written
    full,         ///< no room left on the disk, or in the quota
    interrupted,  ///< a signal came in between
    io,           ///< any other failure to open, read or write a file
    device,       ///< no such device, or the device refused
    cancelled,    ///< the program's own callback said so
};

/// "usage", "malformed" ...
[[nodiscard]] YL_API std::string_view name(ErrorKind kind);

/// Whether the file system failed: `missing`, `forbidden`, `full`, `interrupted` or `io`.
[[nodiscard]] YL_API bool is_file_error(ErrorKind kind);

/// One error: a sentence, and where it happened.
struct YL_API Error {
    ErrorKind kind = ErrorKind::malformed;
    std::string message = {};  ///< what is wrong and what would put it right
    std::string place = {};    ///< a file's path or an argument's name; may be empty
    std::optional<std::uint64_t> offset = {};  ///< byte offset in the file, where one is known

    /// `place: byte offset: message`, leaving out what is not known.
    [[nodiscard]] std::string sentence() const;
};

/// A value, or why there is none. Every function of this library that gives a `Result` may fail
/// with `ErrorKind::memory`, which is not said again for each.
template <class T>
using Result = tl::expected<T, Error>;

/// A result without a value: done, or why not.
using Status = Result<void>;

/// Makes the error value that a failing function returns.
[[nodiscard]] inline tl::unexpected<Error> fail(ErrorKind kind, std::string message,
                                                std::optional<std::uint64_t> offset = {}) {
    return tl::unexpected<Error>(Error{kind, std::move(message), {}, offset});
}

/// Adds the place to an error that does not name one yet.
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

/// The value; throws `ErrorException` where there is none.
template <class T>
T or_throw(Result<T> result) {
    if (!result)
        throw ErrorException(std::move(result).error());
    if constexpr (!std::is_void_v<T>)
        return std::move(*result);
}
#endif

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
