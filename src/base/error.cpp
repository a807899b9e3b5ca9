#include <fmt/format.h>

#include <yl/result.hpp>

namespace yl {

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
