// The scenes of ylat draw that show a cube map.
#pragma once

#include <optional>
#include <yl/yl.hpp>

#include "driver.hpp"

namespace ylat {

/// What the command line says of such a scene.
struct CubeView {
    bool is_ball = false;
    yl::SkyOptions sky = {};
    std::optional<float> roughness = {};  ///< of the ball; a perfect mirror when left out
    bool matt = false;
};

/// By the driver where there is one, else by the CPU.
[[nodiscard]] yl::Result<yl::Image> draw_cube(const CubeView& view, const yl::Texture& cube,
                                              const yl::Sampler& sampler, Driver* driver);

}  // namespace ylat
