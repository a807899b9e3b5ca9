// What samplers need from textures and devices, and what will look wrong.
//
//     yl::Findings findings = yl::check_sampler(texture.shape(), sampler,
//                                               yl::LevelRange::of(texture.shape()));
//     yl::Sampler fitting = yl::fit_sampler(sampler, yl::or_exit(yl::find_profile("gl33")),
//     findings);
#pragma once

#include <algorithm>
#include <yl/api.hpp>
#include <yl/device_profile.hpp>
#include <yl/finding.hpp>
#include <yl/role.hpp>
#include <yl/sampler.hpp>
#include <yl/texture.hpp>

namespace yl {

/// Whether the texture is complete for the sampler (OpenGL 4.6 core, section 8.17): a min filter
/// that uses mip levels needs all of them, from the base level to the max level or 1 x 1. An
/// incomplete texture is sampled as opaque black.
[[nodiscard]] YL_API bool is_complete(const TextureShape& shape, const Sampler& sampler,
                                      LevelRange range);

/// Findings about a texture and sampler that will look wrong together.
[[nodiscard]] YL_API Findings check_sampler(const TextureShape& shape, const Sampler& sampler,
                                            LevelRange range);

/// Adapts a sampler to a device and adds a finding for each change: anisotropy and bias are
/// lowered, borders become edges or the nearest available colour, mirror-once becomes mirror.
[[nodiscard]] YL_API Sampler fit_sampler(const Sampler& sampler, const DeviceProfile& profile,
                                         Findings& findings);

/// What a program knows about a texture and its use, for `check_on_device`.
struct TextureUse {
    TextureShape shape = {};
    Sampler sampler = {};
    std::optional<LevelRange> declared = {};  ///< by default the levels that exist
    std::optional<Role> role = {};            ///< what it means, if known
};

/// Findings about colours that the GPU will not decode, and numbers that it will decode as colours.
[[nodiscard]] YL_API Findings check_role(Format format, Role role);

/// Findings about what the device refuses or what will look wrong: everything that `check_sampler`
/// finds, formats that cannot be filtered, seams between cube faces, sizes under old rules, normals
/// decoded as colours, and more.
[[nodiscard]] YL_API Findings check_on_device(const TextureUse& use, const DeviceProfile& profile);

/// Whether so many textures fit in one shader stage, and so many samplers in the device.
[[nodiscard]] YL_API Findings check_counts(std::size_t textures, std::size_t samplers,
                                           const DeviceProfile& profile);

}  // namespace yl
