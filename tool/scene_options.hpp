// Which options of `ylat draw` go with which scene.
#pragma once

#include "session.hpp"

namespace ylat {

/// Fails with a usage error for an option that was given and means nothing to the scene.
[[nodiscard]] yl::Status check_scene_options(const CLI::App& draw, const std::string& scene);

/// Groups the options in the help by the scenes that they go with.
void group_by_scene(CLI::App& draw);

}  // namespace ylat
