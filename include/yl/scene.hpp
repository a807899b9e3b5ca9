// Simple surfaces seen by a camera, to show what a texture and its sampler look like.
#pragma once

#include <array>
#include <optional>
#include <yl/image.hpp>
#include <yl/texture_sampler.hpp>

namespace yl {

/// A textured plane before a backdrop. For the pixel whose centre is (x, y), counted from the
/// picture's top left corner,
///
///     (s, t, q) = texture_from_pixel * (x, y, 1)      u = s / max(q, least_q)     v likewise
///
/// and the plane is seen there if q >= least_q and, where it has bounds, 0 <= u <= u_end and
/// 0 <= v <= v_end. The plane's horizon is where q is 0; `least_q` ends it a little before, so that
/// no pixel covers an endless stretch of it.
struct Scene {
    std::uint32_t width = 0;
    std::uint32_t height = 0;
    std::array<float, 9> texture_from_pixel = {};  ///< row by row
    float least_q = 0;
    bool is_bounded = false;
    float u_end = 1;
    float v_end = 1;
    Rgba backdrop_top = {0.30F, 0.36F, 0.40F, 1};  ///< linear; blends down to `backdrop_bottom`
    Rgba backdrop_bottom = {0.055F, 0.065F, 0.07F, 1};
    /// For the pixel whose centre is (x, y): towards the viewer, in the plane's own frame, whose
    /// axes are u, the opposite of v, and away from the plane; not of any length.
    std::array<float, 9> viewer_from_pixel = {};
    /// Without a threshold alpha blends; with one it decides between the texture and the backdrop.
    std::optional<float> cutout_threshold = {};
};

struct FloorOptions {
    std::uint32_t width = 640;  ///< pixels
    std::uint32_t height = 400;
    float repeats = 1.6F;      ///< of the texture in one eye's height
    float pitch = 13;          ///< degrees that the camera looks down
    float field_of_view = 58;  ///< degrees, vertical
};

/// A floor that runs to the horizon, seen by somebody who stands on it.
[[nodiscard]] Scene floor_scene(const FloorOptions& options);

struct PanelOptions {
    std::uint32_t width = 640;  ///< pixels
    std::uint32_t height = 400;
    std::array<float, 2> tiles = {1, 1};  ///< how often the texture is repeated across and down
    float turn = 0;            ///< degrees about the vertical axis; the right side goes back
    float tilt = 0;            ///< degrees about the horizontal axis; the top goes back
    float texture_aspect = 1;  ///< width / height of one tile
};

/// A rectangle that fills most of the picture.
[[nodiscard]] Scene panel_scene(const PanelOptions& options);

/// Draws the scene as a GPU would, with the derivatives of 2 x 2 pixels; gives `rgba8-srgb`.
[[nodiscard]] Result<Image> draw_scene(const Scene& scene, const TextureSampler& sampler);

/// One lamp, so far away that it shines from the same side everywhere, over a dim sky.
struct Lamp {
    std::array<float, 3> towards = {0, 0.9F, 0.44F};  ///< in the plane's frame, of any length
    float roughness = 0.2F;                           ///< where no map tells it
    const TextureSampler* roughness_map = nullptr;    ///< its first channel; may be null
    Rgba surface = {0.02F, 0.05F, 0.06F, 1};          ///< linear
    float strength = 1;
};

/// Draws the plane with `normals` as its normal map, green pointing up, shaded by the lamp: a
/// diffuse part and the GGX lobe (Walter and others, "Microfacet Models for Refraction through
/// Rough Surfaces", 2007).
[[nodiscard]] Result<Image> draw_lit_scene(const Scene& scene, const TextureSampler& normals,
                                           const Lamp& lamp);

/// The light that comes from a pixel, linear, without the sky: what `draw_lit_scene` shows.
[[nodiscard]] Rgba lit_color(const Scene& scene, const TextureSampler& normals, const Lamp& lamp,
                             std::uint32_t column, std::uint32_t row);

}  // namespace yl
