// Mip chains, alpha coverage, and roughness widened for averaged normals.
//
//     texture.metadata.transfer = yl::Transfer::srgb;            // averaged in linear light
//     yl::or_exit(yl::build_mips(texture, {.kernel = yl::default_kernel(yl::Role::color)}));
//     yl::or_exit(yl::preserve_coverage(texture, 0.5F));         // of a cut-out texture
#pragma once

#include <optional>
#include <yl/api.hpp>
#include <yl/progress.hpp>
#include <yl/resize.hpp>
#include <yl/texture.hpp>

namespace yl {

/// How a texel is computed from those that it covers in the level above.
enum class Reduction : std::uint8_t {
    average,  ///< weighted by the filter
    minimum,  ///< the least of the texels that a texel covers: for tests that must not miss any
    maximum,
};

/// Fades a chain to the mean colour, for detail maps that should not shimmer. Levels up to `begin`
/// keep their contrast; from `end` on only the mean remains.
struct Fade {
    std::uint32_t begin = 0;
    std::uint32_t end = 1;

    friend bool operator==(const Fade&, const Fade&) = default;
};

/// All members are optional.
struct MipOptions {
    std::optional<Kernel> kernel = {};  ///< by default the box; in `bake` by role
    Edges edges = {Edge::clamp, Edge::clamp};
    Reduction reduction = Reduction::average;
    bool from_top = false;  ///< each level from level 0, not from the level above
    /// Keeps each texel within the range of those that it covers. Off by default, unless `bake`
    /// chooses the kernel.
    std::optional<bool> limit_ringing = {};
    bool dither = false;  ///< integer formats: turn rounding errors into fine noise
    /// The texels are directions, 0.5 + 0.5 n in unsigned formats and n in all others: they are
    /// averaged as vectors and normalised again. With two channels the third is rebuilt; alpha
    /// weighs nothing.
    bool are_normals = false;
    /// Floating point only: dims single texels that are far brighter than their eight neighbours
    /// before averaging. A sun of one texel is such a texel too; `light_of_fireflies` tells how
    /// much light this removes.
    bool guard_fireflies = false;
    std::optional<Fade> fade = {};
    float sharpen = 0;  ///< 0 .. 2: sharpens each level
    /// Bit n: level n is already filled; it stays unchanged and the next levels are made from it.
    std::uint32_t given_levels = 1;
    Progress progress = {};

    friend bool operator==(const MipOptions&, const MipOptions&) = default;
};

/// The kernel that `bake` uses for a role. Colours and normals: a Kaiser window of radius 3 with
/// limited ringing, which lets through a sixth of the aliased contrast of the box. Masks, data,
/// heights and light: the box, which preserves means.
[[nodiscard]] YL_API Kernel default_kernel(Role role);

/// Fills the levels of every layer and face from level 0; 3D textures also shrink in depth.
///
/// By default each texel is the exact area average of the level above, also where a side is odd: a
/// side of 5 shrinks to 2 texels of 2.5 each. Colour is averaged in linear light and weighed by
/// straight alpha (`metadata.alpha`); where all is transparent the plain average keeps the colour.
/// Alpha that is data is an ordinary channel. Levels are computed
/// from the unrounded level above, so that rounding does not add up. The bytes do not depend on the
/// number of threads or the processor. Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] YL_API Status build_mips(Texture& texture, const MipOptions& options = {});

/// The share of an image's light, 0 .. 1, that `guard_fireflies` removes; 0 for integer formats.
[[nodiscard]] YL_API double light_of_fireflies(ConstImageView image, const Edges& edges);

/// The share of an image that passes the alpha test alpha >= threshold when drawn: alpha is
/// interpolated bilinearly and tested at 4 x 4 points per texel. Formats without alpha use the
/// first channel, as stored. 0 for block formats.
[[nodiscard]] YL_API double coverage(ConstImageView image, float threshold);

/// Scales the alpha of each level from 1 on, layer by layer and face by face, so that the same
/// share passes the test as at level 0, as closely as the texels of the level allow; otherwise
/// foliage vanishes in the distance. Texels too similar to be told apart by a scale are varied by a
/// fine pattern. Premultiplied colours are scaled too. Fails with `ErrorKind::usage` if the
/// threshold is not between 0 and 1, and with `unsupported` for block formats and 3D textures.
[[nodiscard]] YL_API Status preserve_coverage(Texture& texture, float threshold);

/// How to measure the spread of the normals under a texel.
enum class SpreadMeasure : std::uint8_t {
    /// By the length of their mean (Toksvig, "Mipmapping Normal Maps", 2005), taken as a von Mises-
    /// Fisher distribution (Banerjee and others, "Clustering on the Unit Hypersphere", 2005).
    length,
    /// By the variance of their slopes (Olano and Baker, "LEAN Mapping", 2010).
    variance,
};

/// Widens the roughness of every level from 1 on, so that a highlight stays as wide on the smooth
/// mean of many normals as it was on all of them together: with the roughness r and the width a = r
/// * r of the highlight's lobe, a * a grows by twice the variance of the slopes.
///
/// `roughness` already has its levels and holds r, 0 to 1, in `channel`. `normals` is the normal
/// map of level 0: 0.5 + 0.5 n or signed, two or more channels. Fails with `ErrorKind::usage` if
/// the sizes differ, and with `unsupported` for block formats and 3D textures.
[[nodiscard]] YL_API Status widen_roughness(Texture& roughness, ConstImageView normals,
                                            Channel channel = Channel::red,
                                            SpreadMeasure measure = SpreadMeasure::length);

/// The variance of slopes along one axis that each texel hides, for levels from 1 on, row by row:
/// for programs that store roughness elsewhere. Fails as `widen_roughness` does.
[[nodiscard]] YL_API Result<std::vector<std::vector<float>>> hidden_variance(
    ConstImageView normals, SpreadMeasure measure = SpreadMeasure::length);

}  // namespace yl
