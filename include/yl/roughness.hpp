// Roughness that makes up for normals which were averaged away.
#pragma once

#include <yl/texture.hpp>

namespace yl {

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
[[nodiscard]] Status widen_roughness(Texture& roughness, ConstImageView normals,
                                     Channel channel = Channel::red,
                                     SpreadMeasure measure = SpreadMeasure::length);

/// The variance of slopes, along one axis, that each texel of each level hides: level by level from
/// 1 on, row by row. The same measures, for those who keep roughness elsewhere.
[[nodiscard]] Result<std::vector<std::vector<float>>> hidden_variance(
    ConstImageView normals, SpreadMeasure measure = SpreadMeasure::length);

}  // namespace yl
