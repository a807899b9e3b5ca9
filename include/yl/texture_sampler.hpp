// Sampling textures and cubes on the CPU as a GPU does.
//
//     yl::TextureSampler unit = yl::or_exit(
//         yl::TextureSampler::create(texture, sampler, yl::LevelRange::of(texture.shape())));
//     yl::Rgba color = unit.sample(0.25F, 0.75F, {});   // u, v and the footprint of a pixel
#pragma once

#include <array>
#include <memory>
#include <vector>
#include <yl/api.hpp>
#include <yl/cube.hpp>
#include <yl/sampler_rules.hpp>
#include <yl/texture.hpp>

namespace yl {

/// Red, green, blue and alpha, linear.
using Rgba = std::array<float, 4>;

/// How texture coordinates change from one pixel to the next, to the right (x) and down (y).
struct Footprint {
    float du_dx = 0, dv_dx = 0, du_dy = 0, dv_dy = 0;
};

/// How the size of a footprint becomes a level of detail. The standards let devices approximate the
/// logarithm; to match a device exactly, use its curve.
enum class LevelCurve : std::uint8_t {
    exact,             ///< log2 of the size
    piecewise_linear,  ///< half of log2 of the squared size, linear between powers of two: up to
                       ///< 0.043 less, as Mesa's software rasteriser computes it
};

/// Samples one 2D texture through one sampler, with the level of detail, filters and wraps of
/// OpenGL 4.6 (core profile, sections 8.14 and 8.15) and Vulkan 1.3 (chapter "Image Operations").
/// Anisotropic filtering takes up to `max_anisotropy` trilinear samples along the footprint's
/// longer axis (EXT_texture_filter_anisotropic). Results are linear, after the texture's swizzle.
/// Safe to use from several threads at once. The texture must outlive it.
class YL_API TextureSampler {
 public:
    /// Fails with `ErrorKind::unsupported` for formats that cannot be read texel by texel.
    [[nodiscard]] static Result<TextureSampler> create(const Texture& texture,
                                                       const Sampler& sampler, LevelRange range,
                                                       LevelCurve curve = LevelCurve::exact);
    /// Deleted, because the sampler only refers to the texture.
    static Result<TextureSampler> create(const Texture&& texture, const Sampler& sampler,
                                         LevelRange range,
                                         LevelCurve curve = LevelCurve::exact) = delete;

    /// Coordinates run from 0 to 1 over the image, v downwards from row 0.
    [[nodiscard]] Rgba sample(float u, float v, const Footprint& footprint) const;

    /// Samples at a given level of detail; the sampler's bias and range still apply.
    [[nodiscard]] Rgba sample_level(float u, float v, float level_of_detail) const;

    /// The sampled texture.
    [[nodiscard]] const Texture& texture() const { return *texture_; }

 private:
    using LoadRow = void (*)(const std::byte*, float*, std::size_t);

    [[nodiscard]] Rgba filtered(float u, float v, float level_of_detail) const;
    [[nodiscard]] Rgba filtered_level(float u, float v, std::uint32_t level, Filter filter) const;
    [[nodiscard]] Rgba texel(std::uint32_t level, std::int64_t x, std::int64_t y) const;
    [[nodiscard]] Rgba seen(Rgba stored) const;

    std::shared_ptr<const Texture> decoded_ = {};  ///< of a block format
    const Texture* texture_ = nullptr;
    Sampler sampler_ = {};
    LevelRange range_;
    LoadRow load_ = nullptr;
    std::vector<ConstImageView> levels_ = {};
    std::size_t texel_bytes_ = 0;
    LevelCurve curve_ = LevelCurve::exact;
    bool complete_ = true;
};

/// How a direction changes from one pixel to the next, to the right (x) and down (y).
struct DirectionFootprint {
    std::array<float, 3> dx = {}, dy = {};
};

/// Samples one cube map through one sampler. The largest coordinate selects the face, and the level
/// of detail is computed on that face (OpenGL 4.6, section 8.13). Linear filtering crosses edges
/// and averages the three texels at a corner (section 8.15, seamless cube maps), or stops at the
/// edges of each face as devices without that feature do. Results are linear, after the texture's
/// swizzle. Safe to use from several threads at once. The texture must outlive it.
class YL_API CubeSampler {
 public:
    /// Fails with `ErrorKind::usage` if the texture is not a cube, and with `unsupported` for formats
    /// that cannot be read texel by texel.
    [[nodiscard]] static Result<CubeSampler> create(const Texture& cube, const Sampler& sampler,
                                                    LevelRange range,
                                                    LevelCurve curve = LevelCurve::exact,
                                                    bool is_seamless = true);
    /// Deleted, because the sampler only refers to the texture.
    static Result<CubeSampler> create(const Texture&& cube, const Sampler& sampler,
                                      LevelRange range, LevelCurve curve = LevelCurve::exact,
                                      bool is_seamless = true) = delete;

    using Ray = std::array<float, 3>;  ///< of any length but 0

    /// Filters over the footprint of a pixel, as a GPU does with derivatives.
    [[nodiscard]] Rgba sample(const Ray& direction, const DirectionFootprint& footprint) const;
    /// Samples at a given level of detail; the sampler's bias and range still apply.
    [[nodiscard]] Rgba sample_level(const Ray& direction, float level_of_detail) const;

    /// The sampled cube.
    [[nodiscard]] const Texture& texture() const { return *texture_; }

 private:
    struct Place;  ///< on a face
    [[nodiscard]] static Place place_of(const Ray& direction);
    [[nodiscard]] Rgba filtered(const Place& place, float level_of_detail) const;
    [[nodiscard]] Rgba filtered_level(const Place& place, std::uint32_t level, Filter filter) const;
    [[nodiscard]] Rgba texel(std::uint32_t level, std::size_t face, std::int64_t x,
                             std::int64_t y) const;
    [[nodiscard]] Rgba seen(Rgba stored) const;

    std::shared_ptr<const Texture> decoded_ = {};  ///< of a block format
    const Texture* texture_ = nullptr;
    Sampler sampler_ = {};
    LevelRange range_;
    void (*load_)(const std::byte*, float*, std::size_t) = nullptr;
    std::vector<ConstImageView> surfaces_ = {};  ///< by level and face
    std::size_t texel_bytes_ = 0;
    LevelCurve curve_ = LevelCurve::exact;
    bool is_seamless_ = true;
    bool complete_ = true;
};

}  // namespace yl
