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

}  // namespace yl
