// Mip chains, alpha coverage that survives them, and roughness that makes up for averaged normals.
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

/// How the texels of a level become those of the next.
enum class Reduction : std::uint8_t {
    average,  ///< weighted by the filter
    minimum,  ///< the least of the texels that a texel covers: for tests that must not miss any
    maximum,
};

/// Where a chain loses its contrast, level by level: detail maps that should not shimmer. Levels up
/// to `begin` keep it, those from `end` on have the texture's mean colour alone.
struct Fade {
    std::uint32_t begin = 0;
    std::uint32_t end = 1;

    friend bool operator==(const Fade&, const Fade&) = default;
};

/// All parts may be left out.
struct MipOptions {
    std::optional<Kernel> kernel = {};  ///< the box when left out; `bake` asks the role
    Edges edges = {Edge::clamp, Edge::clamp};
    Reduction reduction = Reduction::average;
    bool from_top = false;  ///< each level from level 0, not from the level above
    /// No texel leaves the range of those that it covers. Off when left out, unless `bake` chooses
    /// the kernel.
    std::optional<bool> limit_ringing = {};
    bool dither = false;  ///< integer formats: spread the rounding error as fine noise
    /// Directions, 0.5 + 0.5 n in unsigned formats and n in all others: averaged as vectors, then
    /// normalised again. Formats with two channels have their third rebuilt; alpha weighs
    /// nothing.
    bool are_normals = false;
    /// Single texels that outshine their eight neighbours by far are dimmed before they are
    /// averaged: floating point only. A sun of one texel is such a texel; `light_of_fireflies`
    /// tells how much light is lost.
    bool guard_fireflies = false;
    std::optional<Fade> fade = {};
    float sharpen = 0;  ///< 0 .. 2: how much of the lost detail each level is given back
    /// Bit n tells that level n is there already: it stays as it is, and the next are made of it.
    std::uint32_t given_levels = 1;
    Progress progress = {};

    friend bool operator==(const MipOptions&, const MipOptions&) = default;
};

/// The kernel with which `bake` filters a role. Colours and normals: Kaiser's window of radius 3,
/// with limited ringing, which lets a sixth of the contrast alias that the box lets through. Masks,
/// data, heights and light: the box, whose texels are the means of those that they cover.
[[nodiscard]] YL_API Kernel default_kernel(Role role);

/// Fills levels from level 0 on, for every layer and face; of 3D textures in depth as well.
///
/// By default each texel is the exact area average of the level above, also where a side is odd: a
/// side of 5 shrinks to 2 texels of 2.5 each. Colour is averaged in linear light, and alpha weighs
/// it where the texture says that alpha is straight (`metadata.alpha`): where all is transparent
/// the plain average keeps the colour. Alpha that is data is one more channel. Levels are computed
/// from the unrounded level above, so that rounding does not add up. The bytes do not depend on the
/// number of threads, nor on the processor. Fails with `ErrorKind::unsupported` for block formats.
[[nodiscard]] YL_API Status build_mips(Texture& texture, const MipOptions& options = {});

/// The share of an image's light, 0 .. 1, that `guard_fireflies` takes away; 0 for formats that are
/// no floating point.
[[nodiscard]] YL_API double light_of_fireflies(ConstImageView image, const Edges& edges);

/// The share of an image that passes an alpha test, alpha >= threshold, as it is drawn: alpha is
/// bilinear between texels, and looked at in 4 x 4 places of each. Of formats without alpha, the
/// first channel counts, as stored. 0 for block formats.
[[nodiscard]] YL_API double coverage(ConstImageView image, float threshold);

/// Scales the alpha of each level from 1 on, layer by layer and face by face, so that the same
/// share passes the test as at level 0, as nearly as the level's texels allow; leaves of trees
/// would vanish in the distance otherwise. Where a level's texels are too much alike for a scale to
/// tell them apart, they are spread by a fine pattern. Premultiplied colours are scaled with it.
/// Fails with `ErrorKind::usage` when the threshold does not lie between 0 and 1, and `unsupported`
/// for block formats and 3D textures.
[[nodiscard]] YL_API Status preserve_coverage(Texture& texture, float threshold);

/// How the spread of the normals under a texel is measured.
enum class SpreadMeasure : std::uint8_t {
    /// By how short their mean is (Toksvig, "Mipmapping Normal Maps", 2005), taken as a von Mises-
    /// Fisher distribution (Banerjee and others, "Clustering on the Unit Hypersphere", 2005).
    length,
    /// By the variance of their slopes (Olano and Baker, "LEAN Mapping", 2010).
    variance,
};

/// Widens the roughness of every level from 1 on, so that a highlight stays as wide on the smooth
/// mean of many normals as it was on all of them together: with the roughness r and the width
/// a = r * r of the highlight's lobe, a * a grows by twice the variance of the slopes.
///
/// `roughness` has its levels already, and holds r, from 0 to 1, in `channel`. `normals` is the
/// normal map of its level 0: 0.5 + 0.5 n or signed, two or more channels. Fails with
/// `ErrorKind::usage` when the sizes differ, and `unsupported` for block formats and 3D textures.
[[nodiscard]] YL_API Status widen_roughness(Texture& roughness, ConstImageView normals,
                                            Channel channel = Channel::red,
                                            SpreadMeasure measure = SpreadMeasure::length);

/// The variance of slopes, along one axis, that each texel of each level hides: level by level from
/// 1 on, row by row. The same measures, for those who keep roughness elsewhere.
/// Fails as `widen_roughness` does.
[[nodiscard]] YL_API Result<std::vector<std::vector<float>>> hidden_variance(
    ConstImageView normals, SpreadMeasure measure = SpreadMeasure::length);

}  // namespace yl
