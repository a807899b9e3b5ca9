// Results and errors as values: nothing in this library throws on bad input.
#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace yl {

/// What sort of thing went wrong; a program decides by it, a person reads the message.
enum class ErrorKind {
    usage,        ///< the caller's arguments do not fit together
    malformed,    ///< the bytes break the rules of their file format
    unsupported,  ///< well formed, but a variant that is not handled
    limit,        ///< larger than `ReadLimits` or the memory at hand allow
    io,           ///< a file cannot be opened, read or written
    device,       ///< no such device, or the device refused
    cancelled,    ///< the program's own callback said so
};

/// One error: a sentence, and where it happened.
struct Error {
    ErrorKind kind = ErrorKind::malformed;
    std::string message = {};  ///< what is wrong and what would put it right
    std::string place = {};    ///< a file's path or an argument's name; may be empty
    std::optional<std::uint64_t> offset = {};  ///< byte offset in the file, where one is known

    /// `place: byte offset: message`, leaving out what is not known.
    [[nodiscard]] std::string sentence() const;
};

template <class T>
using Result = tl::expected<T, Error>;

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

}  // namespace yl
