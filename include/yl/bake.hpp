// From a picture to a texture: format, colour space, mip chain, as its role asks for.
#pragma once

#include <filesystem>
#include <optional>
#include <yl/codec.hpp>
#include <yl/finding.hpp>
#include <yl/role.hpp>
#include <yl/texture.hpp>

namespace yl {

/// Every part may be left out; then the role decides.
struct BakeOptions {
    Role role = Role::color;
    std::optional<Format> format = {};         ///< of the texture
    std::optional<std::uint32_t> levels = {};  ///< a full chain when left out
    Origin origin = Origin::top;               ///< `bottom` turns the rows round and records it
    std::optional<Sampler> sampler = {};       ///< kept with the texture
};

struct Baked {
    Texture texture = {};
    Findings findings = {};  ///< what is allowed, but will probably not look as meant
};

/// The format that a picture gets in a role when none is asked for.
[[nodiscard]] Format default_format(const Picture& picture, Role role);

[[nodiscard]] Result<Baked> bake(const Picture& picture, const BakeOptions& options = {});

/// Reads the picture first, in the colour space of the role.
[[nodiscard]] Result<Baked> bake_file(const std::filesystem::path& path,
                                      const BakeOptions& options = {},
                                      const ReadLimits& limits = {});

}  // namespace yl
