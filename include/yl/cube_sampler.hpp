// A cube map read as a GPU reads it, on the CPU.
#pragma once

#include <memory>
#include <yl/cube.hpp>
#include <yl/texture_sampler.hpp>

namespace yl {

/// How a direction changes from one pixel to the next, to the right (x) and down (y).
struct DirectionFootprint {
    std::array<float, 3> dx = {}, dy = {};
};

/// Samples one cube map through one sampler: the face is selected by the greatest coordinate, and
/// the level of detail is that of the place on this face (OpenGL 4.6, section 8.13). Linear
/// filtering goes on over edges, and takes the mean of the three texels that meet at a corner
/// (section 8.15, seamless cube maps), or stops at each face's edge as devices without it do.
/// Results are linear, after the texture's swizzle. Safe to use from several threads at once. The
/// texture must outlive it.
class CubeSampler {
 public:
    /// Fails with `ErrorKind::usage` for textures that are no cubes, and `unsupported` for formats
    /// that cannot be read texel by texel.
    [[nodiscard]] static Result<CubeSampler> create(const Texture& cube, const Sampler& sampler,
                                                    LevelRange range,
                                                    LevelCurve curve = LevelCurve::exact,
                                                    bool is_seamless = true);
    /// A temporary would be gone when the sampler reads it.
    static Result<CubeSampler> create(const Texture&& cube, const Sampler& sampler,
                                      LevelRange range, LevelCurve curve = LevelCurve::exact,
                                      bool is_seamless = true) = delete;

    using Ray = std::array<float, 3>;  ///< of any length but 0

    [[nodiscard]] Rgba sample(const Ray& direction, const DirectionFootprint& footprint) const;
    /// With the level of detail given; the sampler's bias and range still apply.
    [[nodiscard]] Rgba sample_level(const Ray& direction, float level_of_detail) const;

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
    LevelCurve curve_ = LevelCurve::exact;
    bool is_seamless_ = true;
    bool complete_ = true;
};

}  // namespace yl
