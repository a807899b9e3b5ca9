// What follows from a material for its textures.
#pragma once

#include <yl/model_bake.hpp>

namespace yl::model {

/// Slots whose alpha is the material's.
[[nodiscard]] inline bool has_coverage(Slot slot) {
    return slot == Slot::base_color || slot == Slot::diffuse;
}

/// The alpha of the texture itself at which it is cut, for which its levels keep their coverage: of
/// masks' base colour, whose factor comes on top. None where every texel passes, or no one.
[[nodiscard]] inline std::optional<float> cutoff_of(const Material& surface, Slot slot) {
    if (surface.alpha != AlphaUse::mask || !has_coverage(slot))
        return std::nullopt;
    const float cutoff = surface.cutoff / surface.base_color[3];
    return cutoff > 0 && cutoff <= 1 ? std::optional(cutoff) : std::nullopt;
}

/// What alpha means in a slot of a material.
[[nodiscard]] inline AlphaMode alpha_of(const Material& surface, Slot slot) {
    const bool covers =
        slot == Slot::other || (has_coverage(slot) && surface.alpha != AlphaUse::opaque);
    return covers ? AlphaMode::straight : AlphaMode::data;
}

/// How a baked model's JSON tells textures apart whose alpha means another thing than their role
/// says.
[[nodiscard]] inline std::string_view alpha_word(Role role, AlphaMode alpha) {
    return info(role).alpha_is_coverage && alpha == AlphaMode::data ? "data" : "";
}

}  // namespace yl::model
