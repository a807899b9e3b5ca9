// Triangles with materials, seen by a camera: what the textures of a model look like on it.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>
#include <yl/image.hpp>
#include <yl/texture.hpp>
#include <yl/texture_sampler.hpp>

namespace yl {

/// Position, normal and tangent in the scene's space: right-handed, y up.
struct MeshVertex {
    std::array<float, 3> position = {};
    std::array<float, 3> normal = {0, 0, 1};
    std::array<float, 4> tangent = {1, 0, 0, 1};  ///< along u; the last is -1 where v is mirrored
    std::array<std::array<float, 2>, 2> coordinates = {};  ///< two sets; v downwards from row 0
    Rgba color = {1, 1, 1, 1};                             ///< linear
};

/// Triangles of one material.
struct MeshPart {
    std::vector<MeshVertex> vertices = {};
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
struct MeshSurface {
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

struct MeshScene {
    std::vector<MeshPart> parts = {};
    std::vector<MeshSurface> surfaces = {};
    std::vector<Texture> textures = {};  ///< flat ones
};

/// What a picture of a mesh shows.
enum class MeshShow : std::uint8_t {
    lit,     ///< the materials under one lamp
    uv,      ///< texture coordinates: u in red, v in green, a chequer in eighths
    normal,  ///< directions as 0.5 + 0.5 n, normal maps applied
    slot,    ///< a colour for each material
    level,   ///< a colour for each mip level that the base colour is read from
};

[[nodiscard]] std::string_view name(MeshShow show);
[[nodiscard]] std::optional<MeshShow> find_mesh_show(std::string_view name);

/// A camera that turns about the mesh's centre, at the distance from which all of it is seen.
struct MeshView {
    std::uint32_t width = 960;  ///< pixels
    std::uint32_t height = 600;
    float yaw = 30;            ///< degrees to the right of the front, which faces +z
    float pitch = 20;          ///< degrees above
    float field_of_view = 32;  ///< degrees, of the smaller side
    float zoom = 1;            ///< beyond 1 the picture shows less, larger
    MeshShow show = MeshShow::lit;
    Rgba backdrop_top = {0.30F, 0.36F, 0.40F, 1};  ///< linear; blends down to `backdrop_bottom`
    Rgba backdrop_bottom = {0.055F, 0.065F, 0.07F, 1};
};

/// The colours of `MeshShow::slot`, which begin again after the last, and of `MeshShow::level` for
/// levels 0 to 7, where the last counts for all that follow. Linear.
[[nodiscard]] Rgba slot_color(std::size_t surface);
[[nodiscard]] Rgba level_color(std::size_t level);

/// Draws the scene as a GPU would, with four samples a pixel and the derivatives of 2 x 2 samples;
/// gives `rgba8-srgb`. What blends is drawn last, from back to front. Fails with
/// `ErrorKind::malformed` when indices lead nowhere.
[[nodiscard]] Result<Image> draw_mesh(const MeshScene& scene, const MeshView& view,
                                      LevelCurve curve = LevelCurve::exact);

}  // namespace yl
