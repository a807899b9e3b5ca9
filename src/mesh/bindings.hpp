// What follows from a material for its textures.
#pragma once

#include <yl/mesh_bindings.hpp>

namespace yl::mesh {

/// The cutoff that the levels of a texture keep their coverage for: of masks' base colour.
[[nodiscard]] inline std::optional<float> cutoff_of(const MeshSurface& surface, Slot slot) {
    const bool is_cut = surface.alpha == AlphaUse::mask && slot == Slot::base_color;
    return is_cut ? std::optional(surface.cutoff) : std::nullopt;
}

}  // namespace yl::mesh
