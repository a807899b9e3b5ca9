// A cube map looked at: as the sky around, and mirrored in a ball.
#pragma once

#include <optional>
#include <yl/cube_light.hpp>
#include <yl/cube_sampler.hpp>

namespace yl {

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
    std::optional<float> sky_level = {};   ///< by how large a pixel is when left out
    std::optional<float> ball_level = {};  ///< likewise; levels are rougher and rougher reflections
    std::optional<Harmonics> matt_ball = {};  ///< the ball does not mirror but is matt and white
    float exposure = 1;                       ///< light is multiplied by it, and cut off at 1
};

struct SkyOptions {
    std::uint32_t width = 640;  ///< pixels
    std::uint32_t height = 400;
    float yaw = 0;             ///< degrees to the right of the front
    float pitch = 0;           ///< degrees upwards
    float field_of_view = 60;  ///< degrees, vertical; the horizontal one follows from the sides
    float stops = 0;           ///< of exposure: each doubles the light
};

/// The sky alone.
[[nodiscard]] CubeScene sky_scene(const SkyOptions& options);

/// A ball before the camera that fills most of the picture's height, and the sky behind it.
[[nodiscard]] CubeScene ball_scene(const SkyOptions& options);

/// The level of a chain from `prefilter_specular` for a roughness from 0 to 1; of any other chain
/// the same share of its levels.
[[nodiscard]] float level_of_roughness(const Texture& cube, float roughness);

/// Draws the scene as a GPU would, with the derivatives of 2 x 2 pixels; gives `rgba8-srgb`.
[[nodiscard]] Result<Image> draw_cube_scene(const CubeScene& scene, const CubeSampler& sampler);

}  // namespace yl
