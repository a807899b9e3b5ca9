// Cubes made ready to light surfaces: blurred by roughness, and gathered over half the sky.
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
    /// Of each level, from 0 to 1; by equal steps from 0 to 1 when left out. The lobe's width alpha
    /// is the square of it.
    std::vector<float> roughness = {};
    Progress progress = {};
};

/// A chain whose levels show what a surface reflects, from smooth to rough: the GGX lobe (Walter
/// and others, 2007), seen from straight above, as split sums need it (Karis, in "Physically Based
/// Shading in Theory and Practice", SIGGRAPH courses, 2013). Directions are drawn by importance,
/// and each is looked up in a chain of the source at the level whose texels cover as much of the
/// sphere as the sample stands for (Krivanek and Colbert, "Real-time Shading with Filtered
/// Importance Sampling", 2008). The few texels that outshine the sky by far, a sun, are summed by
/// themselves, and levels of 16 texels and less over the whole sky, so that nothing of them leaks
/// to where they do not shine. The result has the source's format, which should be floating point;
/// the note `specular_note` tells the roughness of each level.
/// Fails with `ErrorKind::usage` when the texture is no cube or an option is out of its range.
[[nodiscard]] YL_API Result<Texture> prefilter_specular(const Texture& cube,
                                                        const SpecularOptions& options = {});

/// What a surface with the colour f0 seen head-on reflects of a white sky: f0 * scale + bias.
struct ScaleAndBias {
    double scale = 0, bias = 0;
};

/// By the cosine of the angle of view, 0 to 1, and the roughness: GGX with alpha = roughness^2, the
/// height-correlated Smith term (Heitz 2014), Schlick's Fresnel; integrated over the lobe.
[[nodiscard]] YL_API ScaleAndBias split_sum(double cosine, double roughness);

/// That as a table for shaders (Karis 2013): the cosine along u and the roughness along v, each
/// texel for its middle; scale in red, bias in green. `format` is rg16-float or rg16-unorm; the
/// note `split_sum_note` states the mapping. Sample it linearly, clamped to its edges, without
/// levels.
/// Fails with `ErrorKind::usage` for a size of 0 and other formats.
[[nodiscard]] YL_API Result<Texture> split_sum_table(std::uint32_t size = 128,
                                                     Format format = Format::rg16_float);

/// The keys of a texture file under which prefiltered textures say what they hold.
inline constexpr const char* split_sum_note = "YLsplitSum";
inline constexpr const char* specular_note = "YLroughnessOfLevels";
inline constexpr const char* irradiance_note = "YLirradiance";

/// What a white matt surface facing each way sends back, over pi: a cube of few texels, integrated
/// over the whole source.
/// Fails with `ErrorKind::usage` when the texture is no cube.
[[nodiscard]] YL_API Result<Texture> prefilter_diffuse(const Texture& cube,
                                                       std::uint32_t face_size = 32,
                                                       const Progress& progress = {});

/// What each harmonic is multiplied by when light is gathered over half the sky by the cosine, and
/// divided by pi.
inline constexpr std::array<double, 9> cosine_harmonics = {1,    2.0 / 3, 2.0 / 3, 2.0 / 3, 0.25,
                                                           0.25, 0.25,    0.25,    0.25};

/// Light as spherical harmonics up to order 2: nine numbers a channel, in the order
/// (0,0) (1,-1) (1,0) (1,1) (2,-2) (2,-1) (2,0) (2,1) (2,2), for the axes of the cube.
struct YL_API SphericalHarmonics {
    std::array<std::array<double, 3>, 9> radiance = {};

    /// What a matt white surface facing `normal` sends back: the irradiance over pi (Ramamoorthi
    /// and Hanrahan, "An Efficient Representation for Irradiance Environment Maps", 2001).
    [[nodiscard]] std::array<double, 3> reflected(const Direction& normal) const;
};

/// Of level 0.
/// Fails with `ErrorKind::usage` when the texture is no cube or has no such layer.
[[nodiscard]] YL_API Result<SphericalHarmonics> project_to_harmonics(const Texture& cube,
                                                                     std::uint32_t layer = 0);

/// Nine triples, as they are written into a file's notes; and back.
[[nodiscard]] YL_API std::string harmonics_text(const SphericalHarmonics& harmonics);
[[nodiscard]] YL_API std::optional<SphericalHarmonics> parse_harmonics(std::string_view text);

/// The roughness of each level, as `specular_note` tells it.
[[nodiscard]] YL_API std::vector<float> roughness_of_levels(const Texture& cube);

}  // namespace yl
