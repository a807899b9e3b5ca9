// A mesh before its camera: the same numbers for the CPU and for graphics drivers.
#pragma once

#include <vector>

#include <yl/scene.hpp>
#include "base/internal.hpp"
#include "render/light.hpp"

namespace yl {

/// Samples along one side of a pixel.
inline constexpr std::uint32_t samples_across = 2;

/// Where a camera stands, and what it makes of positions.
struct YL_INTERNAL ModelCamera {
    Vector3 middle = {}, eye = {};
    Vector3 right = {}, up = {}, back = {};
    float distance = 1;
    float focal_x = 1, focal_y = 1;  ///< of clip space
    float nearest = 0.1F, farthest = 1;

    /// x and y over w run from -1 to 1, y downwards; w is the distance along the view.
    struct Clip {
        float x = 0, y = 0, w = 1;
    };
    [[nodiscard]] Clip project(const std::array<float, 3>& position) const;
    /// OpenGL's depth, -w at the nearest and w at the farthest.
    [[nodiscard]] float depth(float w) const;
    [[nodiscard]] Vector3 towards_lamp() const;
};

[[nodiscard]] YL_INTERNAL ModelCamera camera_of(const ModelScene& scene, const ModelView& view);

/// Triangles of one part, to be drawn after those before it.
struct MeshDraw {
    const Primitive* part = nullptr;
    const Material* surface = nullptr;
    std::vector<std::uint32_t> indices = {};
};

/// What blends comes last, and of that the farthest first. Fails when indices lead nowhere.
[[nodiscard]] YL_INTERNAL Result<std::vector<MeshDraw>> draws_of(const ModelScene& scene,
                                                                 const ModelCamera& camera);

/// Every four samples become one pixel, averaged in linear light.
[[nodiscard]] YL_INTERNAL Result<Image> average_samples(ConstImageView samples);

}  // namespace yl
