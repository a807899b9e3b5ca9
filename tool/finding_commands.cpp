#include "finding_commands.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <string_view>
#include <utility>

namespace ylat {
namespace {

/// As a shell takes it.
std::string quoted(const std::string& path) {
    constexpr std::string_view plain =
        "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789/._-+,";
    if (path.find_first_not_of(plain) == std::string::npos)
        return path;
    std::string text = "'";
    for (const char letter : path)
        text += letter == '\'' ? "'\\''" : std::string(1, letter);
    return text + "'";
}

/// What mends a finding; {} is the file.
constexpr std::pair<std::string_view, std::string_view> commands[] = {
    {"bits-unused", "ylat rework {} --bits 8 -o OUT.png"},
    {"channels-unused", "ylat rework {} --channels r -o OUT.png"},
    {"coverage-lost", "ylat bake {} --coverage 0.5 --alpha coverage -o OUT.ktx2"},
    {"cube-faces-shuffled",
     "ylat unpack {} --level 0 -o FACES/ && ylat cube FACES/* --reorder -o OUT.ktx2"},
    {"green-inverted", "ylat rework {} --invert g -o OUT.png"},
    {"hidden-colors-bleed", "ylat rework {} --bleed -o OUT.png"},
    {"looks-premultiplied", "ylat rework {} --unpremultiply -o OUT.png"},
    {"no-detail", "ylat rework {} --resize 50% -o OUT.png"},
    {"normals-not-unit", "ylat bake {} --role normal -o OUT.ktx2"},
    {"seam-where-it-repeats", "ylat rework {} --tile 0.2 -o OUT.png"},
};

}  // namespace

std::string command_for(const yl::Finding& finding, const std::string& path) {
    const auto known = std::ranges::find(commands, std::string_view(finding.code),
                                         &std::pair<std::string_view, std::string_view>::first);
    return known != std::end(commands) ? fmt::format(fmt::runtime(known->second), quoted(path))
                                       : "";
}

}  // namespace ylat
