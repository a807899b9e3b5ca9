// Triangles with materials, as they are drawn: what the textures of a model look like on it.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/image.hpp>
#include <yl/texture.hpp>
#include <yl/texture_sampler.hpp>

namespace yl {

/// Position, normal and tangent in the scene's space: right-handed, y up.
struct Vertex {
    std::array<float, 3> position = {};
    std::array<float, 3> normal = {0, 0, 1};
    std::array<float, 4> tangent = {1, 0, 0, 1};  ///< along u; the last is -1 where v is mirrored
    std::array<std::array<float, 2>, 2> coordinates = {};  ///< two sets; v downwards from row 0
    Rgba color = {1, 1, 1, 1};                             ///< linear
};

/// Triangles of one material.
struct Primitive {
    std::vector<Vertex> vertices = {};
    std::vector<std::uint32_t> indices = {};  ///< three a triangle, seen counter-clockwise in front
    std::size_t surface = 0;
    bool has_coordinates = true;  ///< else those of the vertices mean nothing
};

/// Coordinates of a vertex become those of a texture:
///
///     u' = matrix[0] u + matrix[1] v + matrix[2]      v' = matrix[3] u + matrix[4] v + matrix[5]
struct SurfaceTexture {
    std::size_t texture = 0;  ///< of the scene's list
    Sampler sampler = {};
    std::uint32_t coordinate_set = 0;  ///< 0 or 1
    std::array<float, 6> matrix = {1, 0, 0, 0, 1, 0};
    bool is_placeholder = false;  ///< stands for one that is missing
};

enum class AlphaUse : std::uint8_t {
    opaque,  ///< alpha is ignored
    mask,    ///< seen where alpha reaches the cutoff
    blend,   ///< covers by as much as alpha says
};

/// A material of metals and others, as glTF 2.0 describes it (section 3.9).
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
    bool is_unlit = false;  ///< the base colour is seen as it is, without a lamp
    std::optional<SurfaceTexture> base_color_texture = {};
    std::optional<SurfaceTexture> metallic_roughness_texture = {};  ///< G roughness, B metallic
    std::optional<SurfaceTexture> normal_texture = {};
    std::optional<SurfaceTexture> occlusion_texture = {};  ///< R
    std::optional<SurfaceTexture> emissive_texture = {};
};

/// Everything that is drawn of a model. Indices lead from primitives to materials to textures.
struct ModelScene {
    /// In any order; what blends is sorted when it is drawn.
    std::vector<Primitive> parts = {};
    std::vector<Material> surfaces = {};
    std::vector<Texture> textures = {};  ///< flat ones
};

}  // namespace yl
