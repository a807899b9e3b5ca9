// Triangles with materials, for drawing a model with its textures.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/image.hpp>
#include <yl/role.hpp>
#include <yl/texture.hpp>
#include <yl/texture_sampler.hpp>

namespace yl {

/// Position, normal and tangent in the scene's space: right-handed, y up.
struct Vertex {
    std::array<float, 3> position = {};
    std::array<float, 3> normal = {0, 0, 1};
    std::array<float, 4> tangent = {1, 0, 0, 1};  ///< along u; the last is -1 if v is mirrored
    std::array<std::array<float, 2>, 2> coordinates = {};  ///< two sets; v downwards from row 0
    Rgba color = {1, 1, 1, 1};                             ///< linear
};

/// Triangles of one material.
struct Primitive {
    std::vector<Vertex> vertices = {};
    std::vector<std::uint32_t> indices = {};  ///< triangles, counter-clockwise from the front
    std::size_t surface = 0;
    bool has_coordinates = true;  ///< if false, those of the vertices mean nothing
};

/// Transforms coordinates of a vertex into those of a texture:
///
///     u' = matrix[0] u + matrix[1] v + matrix[2]      v' = matrix[3] u + matrix[4] v + matrix[5]
struct SurfaceTexture {
    std::size_t texture = 0;  ///< index in the scene's list
    Sampler sampler = {};
    std::uint32_t coordinate_set = 0;  ///< 0 or 1
    std::array<float, 6> matrix = {1, 0, 0, 0, 1, 0};
    bool is_placeholder = false;  ///< for a missing texture
};

/// A metallic-roughness material as in glTF 2.0 (section 3.9).
struct Material {
    std::string name = {};
    Rgba base_color = {1, 1, 1, 1};  ///< linear
    float metallic = 1;
    float roughness = 1;
    std::array<float, 3> emissive = {0, 0, 0};
    float normal_scale = 1;
    float occlusion_strength = 1;
    AlphaUse alpha = AlphaUse::opaque;
    float cutoff = 0.5F;
    bool is_two_sided = false;
    bool is_unlit = false;  ///< shows the base colour without lighting
    std::optional<SurfaceTexture> base_color_texture = {};
    std::optional<SurfaceTexture> metallic_roughness_texture = {};  ///< G roughness, B metallic
    std::optional<SurfaceTexture> normal_texture = {};
    std::optional<SurfaceTexture> occlusion_texture = {};  ///< R
    std::optional<SurfaceTexture> emissive_texture = {};
};

/// Everything that is drawn of a model. Primitives refer to materials, materials to textures, by
/// index.
struct ModelScene {
    /// In any order; blended ones are sorted when drawn.
    std::vector<Primitive> parts = {};
    std::vector<Material> surfaces = {};
    std::vector<Texture> textures = {};  ///< 2D
};

}  // namespace yl
