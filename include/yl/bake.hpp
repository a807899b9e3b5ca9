// Pictures to textures, and textures to pictures.
//
//     yl::Picture picture = yl::or_exit(yl::read_picture("leaf.png"));
//     yl::Baked baked = yl::or_exit(yl::bake(picture, {.role = yl::Role::color}));
//     for (const yl::Finding& finding : baked.findings)
//         std::fprintf(stderr, "%s\n", finding.problem.c_str());
//     yl::or_exit(yl::write_texture("leaf.ktx2", baked.texture));
#pragma once

#include <filesystem>
#include <memory>
#include <optional>
#include <yl/api.hpp>
#include <yl/block.hpp>
#include <yl/finding.hpp>
#include <yl/measure.hpp>
#include <yl/mip.hpp>
#include <yl/picture.hpp>
#include <yl/progress.hpp>
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
struct YL_API BakeOptions {
    std::optional<Role> role = {};  ///< `hdr` for pictures in floating point, else `color`
    /// What alpha means; by the role and the picture when left out. Given as `straight`, a picture
    /// that says premultiplied stays that.
    std::optional<AlphaMode> alpha = {};
    /// How the picture's colours are encoded, against what its file says. Not for floating point.
    std::optional<Transfer> transfer = {};
    std::optional<Format> format = {};  ///< of the texture
    bool compressed = false;            ///< without a format: the block format that suits the role
    /// Of block formats: effort, weights, rate-distortion. Its role is the one above.
    BlockOptions blocks = BlockOptions();
    std::optional<std::uint32_t> levels = {};  ///< a full chain when left out
    Origin origin = Origin::top;               ///< `bottom` turns the rows round and records it
    std::optional<Sampler> sampler = {};       ///< kept with the texture
    /// Kernel, edges and more. By role, normals are averaged as directions, and colours and normals
    /// are filtered by a Kaiser window with limited ringing (`default_kernel`).
    MipOptions mips = {};
    bool plain_chain = false;            ///< average the stored numbers, whatever the role
    std::optional<float> coverage = {};  ///< the alpha test whose share of texels all levels keep
    std::optional<std::uint32_t> max_side = {};  ///< larger pictures are made smaller
    PowerOfTwo power_of_two = PowerOfTwo::any;
    std::uint32_t first_level = 0;       ///< the texture begins with this level of the whole chain
    std::vector<GivenLevel> given = {};  ///< of levels from 1 on, in the sizes that these have
    /// The normal map under a roughness map, which makes up for the normals that are averaged away;
    /// and which of its channels holds the roughness.
    std::shared_ptr<const Picture> normals = {};
    Channel roughness_channel = Channel::red;
    /// Of all phases; takes the place of `mips.progress` and `blocks.progress`.
    Progress progress = {};

    friend bool operator==(const BakeOptions&, const BakeOptions&) = default;
};

/// A texture made of a picture, and what was noticed on the way.
struct Baked {
    Texture texture = {};
    Findings findings = {};  ///< what is allowed, but will probably not look as meant
    Role role = Role::color;
    bool is_opaque = false;  ///< alpha is 1 in every texel of level 0
    /// Of normals: their mean length before they were normalised.
    std::optional<double> mean_normal_length = {};
};

/// The role of a picture that none is given for.
[[nodiscard]] YL_API Role default_role(const Picture& picture);

/// What a picture is probably meant for, by its pixels, and why.
struct RoleGuess {
    Role role = Role::color;
    std::string reason = {};  ///< a phrase
};
[[nodiscard]] YL_API RoleGuess guess_role(const Picture& picture);

/// What the pixels of a picture say against a role: heights or photographs as normals, normals as
/// colours. `use` names the picture in the sentences.
[[nodiscard]] YL_API Findings check_content(const ChannelUse& channels,
                                            const ContentMeasure& content, Role role,
                                            const std::string& use);

/// What a file says of its colours and was not applied, and what it leaves open.
[[nodiscard]] YL_API Findings check_picture_info(const PictureInfo& info, Role role);

/// The format that a picture gets in a role when none is asked for.
[[nodiscard]] YL_API Format default_format(const Picture& picture, Role role);

/// The block format that suits a picture in a role: BC7 for colours, BC5 for normals and data of
/// two channels, BC4 for data of one, BC6H for light.
[[nodiscard]] YL_API Format default_block_format(const Picture& picture, Role role);

/// Makes a texture of a picture: converts level 0, fills the other levels, encodes. Fails with
/// `ErrorKind::usage` where the options do not fit the picture.
[[nodiscard]] YL_API Result<Baked> bake(const Picture& picture, const BakeOptions& options = {});

/// What becomes of a texture that is there already.
struct RebakeOptions {
    /// Role, format, alpha, sampler and, with `new_levels`, all that concerns size and chain.
    /// Levels that are given are for pictures.
    BakeOptions bake = {};
    std::optional<Origin> origin = {};  ///< where row 0 shall lie; left out: where it lies
    bool new_levels = false;            ///< make the levels anew from level 0
};

/// Makes another texture of one: of any kind, volumes and cubes too. What nothing is asked of stays
/// as it is, to the byte. Fails as `bake` does, and with `ErrorKind::usage` for sizes of volumes
/// and cubes.
[[nodiscard]] YL_API Result<Baked> rebake(const Texture& texture, const RebakeOptions& options);

/// Reads the picture first, in the colour space of the role; `reading` tells the rest: limits,
/// readers of the program's own.
/// Fails as `read_picture` and `bake` do.
[[nodiscard]] YL_API Result<Baked> bake_file(const std::filesystem::path& path,
                                             const BakeOptions& options = {},
                                             const ReadOptions& reading = {});

/// Which surface of a texture.
struct SubresourceIndex {
    std::uint32_t level = 0, layer = 0, face = 0, slice = 0;
};

/// One surface, in the texture's own format, with what is known about its colours. Fails with
/// `ErrorKind::usage` when the texture has no such surface, `unsupported` for block formats.
[[nodiscard]] YL_API Result<Picture> picture_of_surface(const Texture& texture,
                                                        const SubresourceIndex& place);

/// Any image as a picture with a texture's metadata.
/// Fails with `ErrorKind::unsupported` where blocks would have to be reordered.
[[nodiscard]] YL_API Result<Picture> picture_with_metadata(Image image,
                                                           const TextureMetadata& metadata);

}  // namespace yl
