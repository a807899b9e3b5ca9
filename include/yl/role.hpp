// What a texture means; every default follows from it.
#pragma once

#include <optional>
#include <span>
#include <string_view>
#include <yl/format.hpp>

namespace yl {

enum class Role : std::uint8_t {
    color,   ///< what the eye sees: albedo, labels, skies in 8 bits
    normal,  ///< directions, stored as 0.5 + 0.5 n
    mask,    ///< coverage or weight in one channel
    data,    ///< any other numbers: roughness, occlusion, tables
    hdr,     ///< light in floating point
    height,  ///< elevation in one channel
};

struct RoleInfo {
    Role role;
    std::string_view name;
    std::string_view meaning;  ///< one phrase for help texts
    Transfer transfer;         ///< how an 8- or 16-bit image of this role is encoded
};

[[nodiscard]] std::span<const RoleInfo> all_roles();
[[nodiscard]] const RoleInfo& info(Role role);
[[nodiscard]] std::optional<Role> find_role(std::string_view name);

}  // namespace yl
