// What a texture means. All defaults follow from it.
#pragma once

#include <optional>
#include <span>
#include <string_view>
#include <yl/api.hpp>
#include <yl/format.hpp>

namespace yl {

enum class Role : std::uint8_t {
    color,   ///< what the eye sees: albedo, labels, skies in 8 bits
    normal,  ///< directions n, as 0.5 + 0.5 n in unsigned formats and as n in signed ones
    mask,    ///< coverage or weight in one channel
    data,    ///< any other numbers: roughness, occlusion, tables
    hdr,     ///< light in floating point
    height,  ///< elevation in one channel
};

/// What an alpha channel means.
enum class AlphaMode : std::uint8_t {
    straight,       ///< coverage; colours are not multiplied by it, so filters weigh them by it
    premultiplied,  ///< coverage; colours are already multiplied by it
    data,           ///< an ordinary channel; weighs nothing
    opaque,         ///< ignored; everything is opaque
};

/// What a material makes of alpha (glTF 2.0, section 3.9.4).
enum class AlphaUse : std::uint8_t {
    opaque,  ///< alpha is ignored
    mask,    ///< visible where alpha reaches the cutoff
    blend,   ///< alpha blending
};

/// One row of the table of roles.
struct RoleInfo {
    /// The role itself.
    Role role;
    std::string_view name;
    std::string_view meaning;  ///< one phrase for help texts
    Transfer transfer;         ///< how an 8- or 16-bit image of this role is encoded
    bool alpha_is_coverage;    ///< otherwise alpha is an ordinary channel by default
};

/// What alpha means in a role if the file says `stored`: coverage in `color` and `hdr`, an ordinary
/// channel in all other roles.
[[nodiscard]] YL_API AlphaMode alpha_mode(Role role, AlphaMode stored);

/// The table, in the order of the enumeration.
[[nodiscard]] YL_API std::span<const RoleInfo> all_roles();
/// The row of a role.
[[nodiscard]] YL_API const RoleInfo& info(Role role);
/// The role with this name, if there is one.
[[nodiscard]] YL_API std::optional<Role> find_role(std::string_view name);

}  // namespace yl
