// Slots, their roles, and where glTF keeps them.
#pragma once

#include <span>

#include <yl/mesh.hpp>

namespace yl::mesh {

struct SlotPlace {
    Slot slot;
    std::string_view name;
    Role role;
    std::string_view path;  ///< of the texture's info within a glTF material; empty: it has none
};

/// In the order of `Slot`.
[[nodiscard]] std::span<const SlotPlace> slot_places();

}  // namespace yl::mesh
