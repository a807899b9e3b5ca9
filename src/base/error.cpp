#include <fmt/format.h>

#include <yl/result.hpp>

namespace yl {

std::string_view name(ErrorKind kind) {
    switch (kind) {
        case ErrorKind::usage:
            return "usage";
        case ErrorKind::malformed:
            return "malformed";
        case ErrorKind::unsupported:
            return "unsupported";
        case ErrorKind::limit:
            return "limit";
        case ErrorKind::memory:
            return "memory";
        case ErrorKind::missing:
            return "missing";
        case ErrorKind::forbidden:
            return "forbidden";
        case ErrorKind::full:
            return "full";
        case ErrorKind::interrupted:
            return "interrupted";
        case ErrorKind::io:
            return "io";
        case ErrorKind::device:
            return "device";
        case ErrorKind::cancelled:
            return "cancelled";
    }
    return "unknown";
}

bool is_file_error(ErrorKind kind) {
    return kind == ErrorKind::missing || kind == ErrorKind::forbidden || kind == ErrorKind::full ||
           kind == ErrorKind::interrupted || kind == ErrorKind::io;
}

std::string Error::sentence() const {
    std::string text;
    if (!place.empty())
        text += place + ": ";
    if (offset)
        text += fmt::format("at byte {}: ", *offset);
    // What a file holds may be quoted; it must not command a terminal.
    for (const char letter : message) {
        const bool is_control = (letter >= 0 && letter < ' ') || letter == 0x7F;
        text += is_control ? fmt::format("\\x{:02x}", static_cast<unsigned char>(letter))
                           : std::string(1, letter);
    }
    return text;
}

}  // namespace yl
