// The colour of a mesh's surface at one sample, as the shader in shaders/model.frag computes it.
#pragma once

#include <optional>

#include "render/model/projection.hpp"

namespace yl {

/// What the corners of a triangle give to a sample, and how texture coordinates go on from it.
struct MeshFragment {
    Vector3 position = {};
    Vector3 normal = {};
    std::array<float, 4> tangent = {};
    std::array<std::array<float, 2>, 2> coordinates = {};
    std::array<Footprint, 2> footprints = {};  ///< from pixel to pixel, not from sample to sample
    Rgba color = {};
    bool is_front = true;
    bool has_coordinates = true;
};

/// A surface with its textures ready to be read.
class SurfaceShader {
 public:
    [[nodiscard]] static Result<SurfaceShader> create(const ModelScene& scene, std::size_t surface,
                                                      const ModelCamera& camera, ModelShow show,
                                                      LevelCurve curve);

    /// Linear, with the share that covers what is behind; none where the surface is cut out.
    [[nodiscard]] std::optional<Rgba> color(const MeshFragment& fragment) const;

 private:
    struct Unit {  ///< a texture that is read
        SurfaceTexture use = {};
        TextureSampler sampler;

        [[nodiscard]] std::array<float, 2> coordinate(const MeshFragment& fragment) const;
        [[nodiscard]] Footprint footprint(const MeshFragment& fragment) const;
        [[nodiscard]] Rgba read(const MeshFragment& fragment) const;
        [[nodiscard]] float level(const MeshFragment& fragment) const;
    };
    using OptionalUnit = std::optional<Unit>;

    [[nodiscard]] Rgba base(const MeshFragment& fragment) const;
    [[nodiscard]] Vector3 normal(const MeshFragment& fragment) const;
    [[nodiscard]] Rgba lit(const MeshFragment& fragment, const Rgba& base) const;
    [[nodiscard]] Rgba level_shown(const MeshFragment& fragment) const;

    const Material* surface_ = nullptr;
    std::size_t number_ = 0;
    ModelCamera camera_ = {};
    ModelShow show_ = ModelShow::lit;
    OptionalUnit base_color_, metallic_roughness_, normal_, occlusion_, emissive_;
};

/// A chequer in eighths of the texture: how much darker a field is.
inline constexpr float chequer_shade = 0.72F;
/// Of what has no texture, where textures are shown.
inline constexpr float plain_gray = 0.35F;

/// Shading that leaves the shape to be seen where something else than light is shown.
[[nodiscard]] float shape_shade(const Vector3& normal, const Vector3& towards_viewer);

}  // namespace yl
