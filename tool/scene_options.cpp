#include "scene_options.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <string_view>

namespace ylat {
namespace {

constexpr unsigned floor = 1, panel = 2, sky = 4, ball = 8, model = 16;

struct SceneOption {
    const char* name;
    unsigned scenes;
};

// Those that all scenes have are left out.
constexpr SceneOption options[] = {
    {"--role", floor | panel | sky | ball},
    {"--alpha", floor | panel | sky | ball},
    {"--transfer", floor | panel | sky | ball},
    {"--columns", floor | panel | sky | ball},
    {"--declare-levels", floor | panel},
    {"--cutout", floor | panel},
    {"--lamp", floor | panel},
    {"--roughness", floor | panel | ball},
    {"--roughness-map", floor | panel},
    {"--tiles", panel},
    {"--turn", panel},
    {"--tilt", panel},
    {"--repeats", floor},
    {"--pitch", floor | sky | ball | model},
    {"--yaw", sky | ball | model},
    {"--fov", sky},
    {"--stops", sky | ball},
    {"--show", model},
    {"--zoom", model},
    {"--allow-outside", model},
    {"--matt", ball},
};

constexpr std::pair<const char*, unsigned> scenes[] = {
    {"floor", floor}, {"panel", panel}, {"sky", sky}, {"ball", ball}, {"model", model}};

std::string scenes_of(const SceneOption& option) {
    std::vector<std::string> names;
    for (const auto& [name, bit] : scenes)
        if ((option.scenes & bit) != 0)
            names.emplace_back(name);
    return fmt::format("{}", fmt::join(names, ", "));
}

}  // namespace

void group_by_scene(CLI::App& draw) {
    // App::get_option ends the program where memory runs out.
    for (CLI::Option* each : draw.get_options())
        for (const SceneOption& option : options)
            if (std::ranges::find(each->get_lnames(), std::string_view(option.name).substr(2)) !=
                each->get_lnames().end())
                each->group((std::has_single_bit(option.scenes) ? "Scene " : "Scenes ") +
                            scenes_of(option));
}

yl::Status check_scene_options(const CLI::App& draw, const std::string& scene) {
    unsigned drawn = 0;
    for (const auto& [name, bit] : scenes)
        drawn |= scene == name ? bit : 0U;
    for (const SceneOption& option : options) {
        if ((option.scenes & drawn) != 0 || !is_given(draw, option.name))
            continue;
        return yl::fail_at(
            {yl::ErrorKind::usage, fmt::format("it means nothing to the scene {}; it goes with {}",
                                               scene, scenes_of(option))},
            option.name);
    }
    return {};
}

}  // namespace ylat
