#include <fmt/format.h>

#include <yl/result.hpp>

namespace yl {

std::string Error::sentence() const {
    std::string text;
    if (!place.empty())
        text += place + ": ";
    if (offset)
        text += fmt::format("at byte {}: ", *offset);
    return text + message;
}

}  // namespace yl
