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

/// A picture to use for a level instead of filtering it.
struct GivenLevel {
    std::uint32_t level = 1;
    std::shared_ptr<const Picture> picture = {};

    friend bool operator==(const GivenLevel&, const GivenLevel&) = default;
};

/// How to round sizes to powers of two.
enum class PowerOfTwo : std::uint8_t { any, nearest, up, down };

/// All members are optional; by default the role decides.
struct YL_API BakeOptions {
    std::optional<Role> role = {};  ///< `hdr` for pictures in floating point, else `color`
    /// What alpha means; by default the role and the picture decide. `straight` leaves a picture
    /// that says it is premultiplied as it is.
    std::optional<AlphaMode> alpha = {};
    /// How the picture's colours are encoded, overriding its file. Not for floating point.
    std::optional<Transfer> transfer = {};
    std::optional<Format> format = {};  ///< of the texture
    /// Without a format: of this family, the block format that suits the role.
    BlockFamily compressed = BlockFamily::none;
    /// With ASTC, whose blocks have 0.89 to 8 bits a texel: those that come nearest. 0: 3.56 (6 x 6).
    float bits_per_texel = 0;
    /// For block formats: effort, weights, rate-distortion. `role` above replaces the one in here.
    BlockOptions blocks = BlockOptions();
    std::optional<std::uint32_t> levels = {};  ///< a full chain when left out
    Origin origin = Origin::top;               ///< `bottom` flips the rows and records it
    std::optional<Sampler> sampler = {};       ///< stored with the texture
    /// Kernel, edges and more. By role, normals are averaged as directions, and colours and normals
    /// are filtered by a Kaiser window with limited ringing (`default_kernel`).
    MipOptions mips = {};
    bool plain_chain = false;                    ///< average the stored numbers, whatever the role
    std::optional<float> coverage = {};          ///< alpha test; levels keep the share that passes
    std::optional<std::uint32_t> max_side = {};  ///< shrinks larger pictures
    PowerOfTwo power_of_two = PowerOfTwo::any;
    std::uint32_t first_level = 0;       ///< leaves out the levels before this one
    std::vector<GivenLevel> given = {};  ///< for levels from 1 on, in the size of the level
    /// For a roughness map: the normal map that belongs to it, to widen the roughness where normals
    /// are averaged away; and the channel of the picture that holds the roughness.
    std::shared_ptr<const Picture> normals = {};
    Channel roughness_channel = Channel::red;
    /// Reports all phases; replaces `mips.progress` and `blocks.progress`.
    Progress progress = {};

    friend bool operator==(const BakeOptions&, const BakeOptions&) = default;
};

/// A texture made from a picture, and what was noticed.
struct Baked {
    Texture texture = {};
    Findings findings = {};  ///< what is allowed but will probably look wrong
    Role role = Role::color;
    bool is_opaque = false;  ///< alpha is 1 in every texel of level 0
    /// Role normal: the mean length of the normals before they were normalised.
    std::optional<double> mean_normal_length = {};
};

/// The role that a picture gets by default.
[[nodiscard]] YL_API Role default_role(const Picture& picture);

/// What a picture is probably meant for, judging by its pixels, and why.
struct RoleGuess {
    Role role = Role::color;
    std::string reason = {};  ///< a phrase
};
[[nodiscard]] YL_API RoleGuess guess_role(const Picture& picture);

/// Findings about pixels that contradict a role: heights or photographs as normals, normals as
/// colours. `use` names the picture in the sentences.
[[nodiscard]] YL_API Findings check_content(const ChannelUse& channels,
                                            const ContentMeasure& content, Role role,
                                            const std::string& use);

/// Findings about what a file says of its colours but was not applied, and what it leaves open.
[[nodiscard]] YL_API Findings check_picture_info(const PictureInfo& info, Role role);

/// The uncompressed format that a picture gets in a role by default.
[[nodiscard]] YL_API Format default_format(const Picture& picture, Role role);

/// The block format of a family that suits a picture in a role. BC: BC7 for colours, BC5 for normals
/// and data of two channels, BC4 for data of one, BC6H for light. ETC2: RGB, RGB with cut-outs or
/// RGBA for colours, EAC for one or two channels; for light, which it cannot hold, a plain format. ASTC:
/// blocks of 6 x 6, in floating point for light.
[[nodiscard]] YL_API Format default_block_format(const Picture& picture, Role role,
                                                 BlockFamily family = BlockFamily::bc);

/// Makes a texture of a picture: converts level 0, fills the other levels, encodes. Fails with
/// `ErrorKind::usage` where the options do not fit the picture.
[[nodiscard]] YL_API Result<Baked> bake(const Picture& picture, const BakeOptions& options = {});

/// How to rework an existing texture.
struct RebakeOptions {
    /// Role, format, alpha, sampler and, with `new_levels`, everything about size and mip chain.
    /// `given` levels only work for pictures.
    BakeOptions bake = {};
    std::optional<Origin> origin = {};  ///< unchanged by default
    bool new_levels = false;            ///< rebuild the levels from level 0
};

/// Makes a new texture from any texture, including volumes and cubes. What no option changes stays
/// the same to the byte. Fails as `bake` does, and with `ErrorKind::usage` if volumes or cubes are
/// to be resized.
[[nodiscard]] YL_API Result<Baked> rebake(const Texture& texture, const RebakeOptions& options);

/// Reads a picture in the colour space of the role and bakes it. `reading` sets limits and readers
/// of your own. Fails as `read_picture` and `bake` do.
[[nodiscard]] YL_API Result<Baked> bake_file(const std::filesystem::path& path,
                                             const BakeOptions& options = {},
                                             const ReadOptions& reading = {});

/// One surface of a texture.
struct SubresourceIndex {
    std::uint32_t level = 0, layer = 0, face = 0, slice = 0;
};

/// One surface as a picture in the texture's format. Fails with `ErrorKind::usage` if there is no
/// such surface, and with `unsupported` for block formats.
[[nodiscard]] YL_API Result<Picture> picture_of_surface(const Texture& texture,
                                                        const SubresourceIndex& place);

/// An image as a picture with a texture's metadata.
/// Fails with `ErrorKind::unsupported` if blocks would have to be flipped.
[[nodiscard]] YL_API Result<Picture> picture_with_metadata(Image image,
                                                           const TextureMetadata& metadata);

}  // namespace yl
