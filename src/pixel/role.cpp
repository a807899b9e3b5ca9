#include <yl/role.hpp>

namespace yl {
namespace {

constexpr RoleInfo table[] = {
    {Role::color, "color", "what the eye sees", Transfer::srgb, true},
    {Role::normal, "normal", "directions, 0.5 + 0.5 n", Transfer::linear, false},
    {Role::mask, "mask", "coverage or weight", Transfer::linear, false},
    {Role::data, "data", "any other numbers", Transfer::linear, false},
    {Role::hdr, "hdr", "light in floating point", Transfer::srgb, true},
    {Role::height, "height", "elevation", Transfer::linear, false},
};

}  // namespace

std::span<const RoleInfo> all_roles() {
    return table;
}

const RoleInfo& info(Role role) {
    return table[static_cast<std::size_t>(role)];
}

AlphaMode alpha_mode(Role role, AlphaMode stored) {
    return info(role).alpha_is_coverage ? stored : AlphaMode::data;
}

std::optional<Role> find_role(std::string_view name) {
    for (const RoleInfo& entry : table)
        if (entry.name == name)
            return entry.role;
    return {};
}

}  // namespace yl
