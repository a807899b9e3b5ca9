// The Glasshouse's planter: a pot of slate with a trellis and a label, as a glTF model.
#pragma once

#include <string>
#include <yl/yl.hpp>

namespace glasshouse {

/// Writes planter.glb into a folder that has the Glasshouse's pictures. Its images come from
/// everywhere: slate and lattice from files beside it, moss from its binary chunk, the label from a
/// data URI, and the saucer's terracotta is missing.
[[nodiscard]] yl::Status write_planter(const std::string& folder);

}  // namespace glasshouse
