#include <yl/finding.hpp>

#include <array>

namespace yl {

std::string_view name(FindingLevel level) {
    constexpr std::array<std::string_view, 3> names = {"error", "warning", "hint"};
    return names[static_cast<std::size_t>(level)];
}

}  // namespace yl
