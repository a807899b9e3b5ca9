// Slots, their roles, and where glTF keeps them.
#pragma once

#include <span>

#include <yl/model.hpp>

namespace yl::model {

struct SlotPlace {
    Slot slot;
    std::string_view name;
    Role role;
    std::string_view path;  ///< of the texture's info within a glTF material; empty: it has none
};

/// Where the base colour stands in materials of specular colour and glossiness.
inline constexpr std::string_view diffuse_path =
    "extensions/KHR_materials_pbrSpecularGlossiness/diffuseTexture";

/// In the order of `Slot`.
[[nodiscard]] std::span<const SlotPlace> slot_places();

}  // namespace yl::model
