// Simple scenes that show what a texture and its sampler look like.
//
//     yl::Image floor = yl::or_exit(yl::draw_scene(yl::floor_scene({}), unit));
//     yl::or_exit(yl::write_picture("floor.png", floor.view()));
#pragma once

#include <array>
#include <optional>
#include <yl/api.hpp>
#include <yl/atlas.hpp>
#include <yl/environment.hpp>
#include <yl/image.hpp>
#include <yl/model_scene.hpp>
#include <yl/texture_sampler.hpp>

namespace yl {

/// A textured plane in front of a backdrop. For the pixel whose centre is (x, y), counted from the
/// picture's top left corner,
///
///     (s, t, q) = texture_from_pixel * (x, y, 1)      u = s / max(q, min_q)     v likewise
///
/// and the plane is seen there if q >= min_q and, where it has bounds, 0 <= u <= u_end and
/// 0 <= v <= v_end. The plane's horizon is where q is 0; `min_q` ends it a little before, so that
/// no pixel covers an endless stretch of it.
struct Scene {
    std::uint32_t width = 0;
    std::uint32_t height = 0;
    std::array<float, 9> texture_from_pixel = {};  ///< row by row
    float min_q = 0;
    bool is_bounded = false;
    float u_end = 1;
    float v_end = 1;
    Rgba backdrop_top = {0.30F, 0.36F, 0.40F, 1};  ///< linear; blends down to `backdrop_bottom`
    Rgba backdrop_bottom = {0.055F, 0.065F, 0.07F, 1};
    /// For the pixel whose centre is (x, y): the direction to the viewer in the frame of the plane,
    /// whose axes are u, the opposite of v, and the normal; not normalised.
    std::array<float, 9> viewer_from_pixel = {};
    /// Without a threshold alpha blends; with one it selects the texture or the backdrop.
    std::optional<float> cutout_threshold = {};
    /// The plane shows this part of an atlas; u and v are coordinates of the part's picture.
    std::optional<PartCoordinates> part = {};
};

struct FloorOptions {
    std::uint32_t width = 640;  ///< pixels
    std::uint32_t height = 400;
    float repeats = 1.6F;      ///< of the texture over the height of the eye
    float pitch = 13;          ///< degrees; how far the camera looks down
    float field_of_view = 58;  ///< degrees, vertical
};

/// A floor that runs to the horizon, seen by a viewer standing on it.
[[nodiscard]] YL_API Scene floor_scene(const FloorOptions& options);

struct PanelOptions {
    std::uint32_t width = 640;  ///< pixels
    std::uint32_t height = 400;
    std::array<float, 2> tiles = {1, 1};  ///< how often the texture is repeated across and down
    float turn = 0;            ///< degrees about the vertical axis; the right side moves away
    float tilt = 0;            ///< degrees about the horizontal axis; the top moves away
    float texture_aspect = 1;  ///< width / height of one tile
};

/// A rectangle that fills most of the picture.
[[nodiscard]] YL_API Scene panel_scene(const PanelOptions& options);

/// Draws the scene as a GPU would, with derivatives over 2 x 2 pixels; returns `rgba8-srgb`.
/// Fails with `ErrorKind::usage` for a picture without pixels.
[[nodiscard]] YL_API Result<Image> draw_scene(const Scene& scene, const TextureSampler& sampler);

/// A directional lamp over a dim sky.
struct Lamp {
    std::array<float, 3> towards = {0, 0.9F, 0.44F};  ///< in the plane's frame, of any length
    float roughness = 0.2F;                           ///< without a map
    const TextureSampler* roughness_map = nullptr;    ///< its first channel; may be null
    Rgba surface = {0.02F, 0.05F, 0.06F, 1};          ///< linear
    float strength = 1;
};

/// Draws the plane with `normals` as its normal map, green pointing up, shaded by the lamp: a
/// diffuse part and the GGX lobe (Walter and others, "Microfacet Models for Refraction through
/// Rough Surfaces", 2007).
/// Fails as `draw_scene` does.
[[nodiscard]] YL_API Result<Image> draw_lit_scene(const Scene& scene, const TextureSampler& normals,
                                                  const Lamp& lamp);

/// The linear light of a pixel without the sky, as `draw_lit_scene` shows it.
[[nodiscard]] YL_API Rgba lit_color(const Scene& scene, const TextureSampler& normals,
                                    const Lamp& lamp, std::uint32_t column, std::uint32_t row);

/// What a camera in the middle of a cube map sees. For the pixel whose centre is (x, y), counted
/// from the picture's top left corner, it looks along
///
///     direction = direction_from_pixel * (x, y, 1)
///
/// and, with a ball, meets a sphere of radius 1 whose middle is at `ball_middle`.
struct CubeScene {
    std::uint32_t width = 0;
    std::uint32_t height = 0;
    std::array<float, 9> direction_from_pixel = {};  ///< row by row
    std::optional<std::array<float, 3>> ball_middle = {};
    std::optional<float> sky_level = {};   ///< by default by the size of a pixel
    std::optional<float> ball_level = {};  ///< likewise; higher levels are rougher reflections
    std::optional<SphericalHarmonics> matt_ball =
        {};              ///< the ball is matt and white instead of a mirror
    float exposure = 1;  ///< factor of the light, which is then cut off at 1
};

struct SkyOptions {
    std::uint32_t width = 640;  ///< pixels
    std::uint32_t height = 400;
    float yaw = 0;             ///< degrees to the right of the front
    float pitch = 0;           ///< degrees upwards
    float field_of_view = 60;  ///< degrees, vertical; the horizontal one follows from the sides
    float stops = 0;           ///< exposure; each stop doubles the light
};

/// The sky alone.
[[nodiscard]] YL_API CubeScene sky_scene(const SkyOptions& options);

/// A ball that fills most of the picture's height, with the sky behind it.
[[nodiscard]] YL_API CubeScene ball_scene(const SkyOptions& options);

/// The level for a roughness of 0 to 1 in a chain from `prefilter_specular`; in other chains the
/// same fraction of the levels.
[[nodiscard]] YL_API float level_of_roughness(const Texture& cube, float roughness);

/// Draws the scene as a GPU would, with derivatives over 2 x 2 pixels; returns `rgba8-srgb`.
/// Fails as `draw_scene` does.
[[nodiscard]] YL_API Result<Image> draw_cube_scene(const CubeScene& scene,
                                                   const CubeSampler& sampler);

/// What a picture of a model shows.
enum class ModelShow : std::uint8_t {
    lit,     ///< the materials under one lamp
    uv,      ///< texture coordinates: u in red, v in green, a chequer in eighths
    normal,  ///< directions as 0.5 + 0.5 n, normal maps applied
    slot,    ///< a colour for each material
    level,   ///< a colour for each mip level that the base colour is read from
};

/// "lit", "uv" ...
[[nodiscard]] YL_API std::string_view name(ModelShow show);
/// By that name; nothing for any other text.
[[nodiscard]] YL_API std::optional<ModelShow> find_model_show(std::string_view name);

/// A camera that turns about the mesh's centre, at the distance from which all of it is seen.
struct ModelView {
    std::uint32_t width = 960;  ///< pixels
    std::uint32_t height = 600;
    float yaw = 30;            ///< degrees to the right of the front, which faces +z
    float pitch = 20;          ///< degrees above
    float field_of_view = 32;  ///< degrees, of the smaller side
    float zoom = 1;            ///< beyond 1 the picture shows less, larger
    ModelShow show = ModelShow::lit;
    Rgba backdrop_top = {0.30F, 0.36F, 0.40F, 1};  ///< linear; blends down to `backdrop_bottom`
    Rgba backdrop_bottom = {0.055F, 0.065F, 0.07F, 1};
};

/// The colours of `ModelShow::slot`, which begin again after the last, and of `ModelShow::level`
/// for levels 0 to 7, where the last counts for all that follow. Linear.
[[nodiscard]] YL_API Rgba slot_color(std::size_t surface);
[[nodiscard]] YL_API Rgba level_color(std::size_t level);

/// Draws the scene as a GPU would, with four samples a pixel and the derivatives of 2 x 2 samples;
/// gives `rgba8-srgb`. What blends is drawn last, from back to front. Fails with
/// `ErrorKind::malformed` when indices lead nowhere.
[[nodiscard]] YL_API Result<Image> draw_model(const ModelScene& scene, const ModelView& view,
                                              LevelCurve curve = LevelCurve::exact);

}  // namespace yl
