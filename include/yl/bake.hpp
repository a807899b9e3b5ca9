// From a picture to a texture: format, colour space, mip chain, as its role asks for.
#pragma once

#include <filesystem>
#include <memory>
#include <optional>
#include <yl/block.hpp>
#include <yl/codec.hpp>
#include <yl/finding.hpp>
#include <yl/mip.hpp>
#include <yl/role.hpp>
#include <yl/texture.hpp>

namespace yl {

/// A picture that a level is made of, instead of being filtered.
struct GivenLevel {
    std::uint32_t level = 1;
    std::shared_ptr<const Picture> picture = {};

    friend bool operator==(const GivenLevel&, const GivenLevel&) = default;
};

/// Sizes that are powers of two, where they have to be.
enum class PowerOfTwo : std::uint8_t { any, nearest, up, down };

/// Every part may be left out; then the role decides.
struct BakeOptions {
    Role role = Role::color;
    std::optional<Format> format = {};  ///< of the texture
    bool compressed = false;            ///< without a format: the block format that suits the role
    /// Of block formats: effort, weights, thrift, progress. Its role is the one above.
    BlockOptions blocks = BlockOptions();
    std::optional<std::uint32_t> levels = {};  ///< a full chain when left out
    Origin origin = Origin::top;               ///< `bottom` turns the rows round and records it
    std::optional<Sampler> sampler = {};       ///< kept with the texture
    /// Kernel, edges and more. By role, normals are averaged as directions, and single fireflies
    /// dimmed in light.
    MipOptions mips = {};
    bool plain_chain = false;            ///< average the stored numbers, whatever the role
    std::optional<float> coverage = {};  ///< the alpha test whose share of texels all levels keep
    std::optional<std::uint32_t> greatest_side = {};  ///< larger pictures are made smaller
    PowerOfTwo power_of_two = PowerOfTwo::any;
    std::uint32_t first_level = 0;       ///< the texture begins with this level of the whole chain
    std::vector<GivenLevel> given = {};  ///< of levels from 1 on, in the sizes that these have
    /// The normal map under a roughness map, which makes up for the normals that are averaged away.
    std::shared_ptr<const Picture> normals = {};

    friend bool operator==(const BakeOptions&, const BakeOptions&) = default;
};

struct Baked {
    Texture texture = {};
    Findings findings = {};  ///< what is allowed, but will probably not look as meant
};

/// The format that a picture gets in a role when none is asked for.
[[nodiscard]] Format default_format(const Picture& picture, Role role);

/// The block format that suits a picture in a role: BC7 for colours, BC5 for normals and data of
/// two channels, BC4 for data of one, BC6H for light.
[[nodiscard]] Format default_block_format(const Picture& picture, Role role);

[[nodiscard]] Result<Baked> bake(const Picture& picture, const BakeOptions& options = {});

/// Reads the picture first, in the colour space of the role.
[[nodiscard]] Result<Baked> bake_file(const std::filesystem::path& path,
                                      const BakeOptions& options = {},
                                      const ReadLimits& limits = {});

}  // namespace yl
