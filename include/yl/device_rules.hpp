// Samplers on devices: what a device cannot do, and what it does that nobody meant.
#pragma once

#include <yl/device_profile.hpp>
#include <yl/role.hpp>
#include <yl/sampler_rules.hpp>

namespace yl {

/// The sampler within the device's limits; adds a finding for each change: anisotropy and bias are
/// lowered, borders become edges or the nearest colour that there is, mirror-once becomes mirror.
[[nodiscard]] Sampler fit_sampler(const Sampler& sampler, const DeviceProfile& profile,
                                  Findings& findings);

/// What a program knows about a texture and its use, for `check_on_device`.
struct TextureUse {
    TextureShape shape = {};
    Sampler sampler = {};
    std::optional<LevelRange> declared = {};  ///< just what is there, when left out
    std::optional<Role> role = {};            ///< what it means, where that is known
};

/// Colours that the GPU will not decode, and numbers that it will decode like colours.
[[nodiscard]] Findings check_role(Format format, Role role);

/// Everything about the texture and its sampler that the device refuses or that will not look as
/// meant: what `check_sampler` finds, formats that cannot be filtered, seams between the faces of
/// cubes, sizes under old rules, normals that are decoded like colours, and more.
[[nodiscard]] Findings check_on_device(const TextureUse& use, const DeviceProfile& profile);

/// Whether so many textures fit in one shader stage, and so many samplers in the device.
[[nodiscard]] Findings check_counts(std::size_t textures, std::size_t samplers,
                                    const DeviceProfile& profile);

}  // namespace yl
