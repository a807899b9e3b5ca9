// Environment lighting: cubes prefiltered by roughness, irradiance, spherical harmonics.
//
//     yl::Texture specular = yl::or_exit(yl::prefilter_specular(cube));
//     yl::Texture diffuse = yl::or_exit(yl::prefilter_diffuse(cube));
//     yl::SphericalHarmonics light = yl::or_exit(yl::project_to_harmonics(cube));
#pragma once

#include <optional>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/cube.hpp>
#include <yl/progress.hpp>

namespace yl {

struct SpecularOptions {
    std::optional<std::uint32_t> face_size = {};  ///< texels; the source's when left out
    std::optional<std::uint32_t> levels = {};     ///< a full chain, down to 4 texels, if left out
    std::uint32_t samples = 1024;                 ///< of each texel
    /// The roughness of each level, 0 to 1; equal steps when left out. The width alpha of the lobe
    /// is its square.
    std::vector<float> roughness = {};
    Progress progress = {};
};

/// A chain whose levels show what a surface reflects, from smooth to rough: the GGX lobe (Walter
/// and others, 2007), seen from straight above, as split sums need it (Karis, in "Physically Based
/// Shading in Theory and Practice", SIGGRAPH courses, 2013). Directions are drawn by importance,
/// and each is looked up in a chain of the source at the level whose texels cover as much of the
/// sphere as the sample stands for (Krivanek and Colbert, "Real-time Shading with Filtered
/// Importance Sampling", 2008). Texels that are far brighter than the rest, such as a sun, are
/// summed separately, and levels of 16 texels and less over the whole sphere, so that their light
/// does not leak. The result has the source's format, which should be floating point; the key
/// `specular_note` records the roughness of each level. Fails with `ErrorKind::usage` if the
/// texture is not a cube or an option is out of range.
[[nodiscard]] YL_API Result<Texture> prefilter_specular(const Texture& cube,
                                                        const SpecularOptions& options = {});

/// A surface whose colour seen head-on is f0 reflects f0 * scale + bias of a white sky.
struct ScaleAndBias {
    double scale = 0, bias = 0;
};

/// Scale and bias for the cosine of the viewing angle, 0 to 1, and the roughness: GGX with alpha =
/// roughness^2, the height-correlated Smith term (Heitz 2014), Schlick's Fresnel; integrated over
/// the lobe.
[[nodiscard]] YL_API ScaleAndBias split_sum(double cosine, double roughness);

/// The same as a table for shaders (Karis 2013): the cosine along u, the roughness along v,
/// evaluated at texel centres; scale in red, bias in green. `format` is rg16-float or rg16-unorm;
/// the key `split_sum_note` records the mapping. Sample it linearly, clamped to the edge, without
/// mip levels. Fails with `ErrorKind::usage` for a size of 0 and other formats.
[[nodiscard]] YL_API Result<Texture> split_sum_table(std::uint32_t size = 128,
                                                     Format format = Format::rg16_float);

/// Keys under which prefiltered textures record what they hold.
inline constexpr const char* split_sum_note = "YLsplitSum";
inline constexpr const char* specular_note = "YLroughnessOfLevels";
inline constexpr const char* irradiance_note = "YLirradiance";

/// The radiance that a white matt surface reflects in each direction, divided by pi: a small cube,
/// integrated over the whole source.
/// Fails with `ErrorKind::usage` when the texture is not a cube.
[[nodiscard]] YL_API Result<Texture> prefilter_diffuse(const Texture& cube,
                                                       std::uint32_t face_size = 32,
                                                       const Progress& progress = {});

/// The factor of each harmonic when radiance becomes irradiance divided by pi.
inline constexpr std::array<double, 9> cosine_harmonics = {1,    2.0 / 3, 2.0 / 3, 2.0 / 3, 0.25,
                                                           0.25, 0.25,    0.25,    0.25};

/// Radiance as spherical harmonics up to order 2: nine numbers per channel, in the order
/// (0,0) (1,-1) (1,0) (1,1) (2,-2) (2,-1) (2,0) (2,1) (2,2), for the axes of the cube.
struct YL_API SphericalHarmonics {
    std::array<std::array<double, 3>, 9> radiance = {};

    /// What a matt white surface with this normal reflects: the irradiance divided by pi
    /// (Ramamoorthi and Hanrahan, "An Efficient Representation for Irradiance Environment Maps",
    /// 2001).
    [[nodiscard]] std::array<double, 3> reflected(const Direction& normal) const;
};

/// Projects level 0 of one layer.
/// Fails with `ErrorKind::usage` when the texture is not a cube or has no such layer.
[[nodiscard]] YL_API Result<SphericalHarmonics> project_to_harmonics(const Texture& cube,
                                                                     std::uint32_t layer = 0);

/// The text form of nine triples, as stored in key values; and its parser.
[[nodiscard]] YL_API std::string harmonics_text(const SphericalHarmonics& harmonics);
[[nodiscard]] YL_API std::optional<SphericalHarmonics> parse_harmonics(std::string_view text);

/// The roughness of each level, as recorded under `specular_note`.
[[nodiscard]] YL_API std::vector<float> roughness_of_levels(const Texture& cube);

}  // namespace yl
