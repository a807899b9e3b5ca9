#include <yl/cube_scene.hpp>

#include <Eigen/Dense>
#include <Eigen/Geometry>

#include <numbers>

#include "base/out_of_memory.hpp"
#include "inspect/scene_walk.hpp"

namespace yl {
namespace {

using Matrix = Eigen::Matrix3d;
using Vector = Eigen::Vector3d;
using Ray = CubeSampler::Ray;

constexpr double radians = std::numbers::pi / 180;
constexpr double ball_distance = 4;  ///< in its radii

/// Columns: where the camera's right, up and ahead point.
Matrix camera(const SkyOptions& options) {
    const double yaw = static_cast<double>(options.yaw) * radians;
    const double pitch = static_cast<double>(options.pitch) * radians;
    Matrix axes;
    axes.col(0) = Vector(std::cos(yaw), 0, -std::sin(yaw));
    axes.col(2) =
        Vector(std::sin(yaw) * std::cos(pitch), std::sin(pitch), std::cos(yaw) * std::cos(pitch));
    // In a left-handed space: ahead times right is up.
    axes.col(1) = Vector(axes.col(2)).cross(Vector(axes.col(0)));
    return axes;
}

CubeScene scene_with(const SkyOptions& options, double field_of_view) {
    const double step = 2 * std::tan(field_of_view / 2) / options.height;
    const Matrix ray_from_pixel = (Matrix() << step, 0, -step * options.width / 2, 0, -step,
                                   step * options.height / 2, 0, 0, 1)
                                      .finished();
    const Matrix direction = camera(options) * ray_from_pixel;
    CubeScene scene;
    scene.width = options.width;
    scene.height = options.height;
    for (int i = 0; i < 9; ++i)
        scene.direction_from_pixel[static_cast<std::size_t>(i)] =
            static_cast<float>(direction(i / 3, i % 3));
    scene.exposure = std::exp2(options.stops);
    return scene;
}

float dot(const Ray& a, const Ray& b) {
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}

/// What a pixel sees: the sky straight, or a place of the ball.
struct Sight {
    Ray direction = {};  ///< of the sky that is seen
    Ray normal = {};     ///< of the ball
    bool is_ball = false;
};

Sight sight_at(const CubeScene& scene, std::uint32_t column, std::uint32_t row) {
    const float x = static_cast<float>(column) + 0.5F, y = static_cast<float>(row) + 0.5F;
    const auto& m = scene.direction_from_pixel;
    Sight sight{
        {m[0] * x + m[1] * y + m[2], m[3] * x + m[4] * y + m[5], m[6] * x + m[7] * y + m[8]}};
    if (!scene.ball_middle)
        return sight;
    const Ray& c = *scene.ball_middle;
    const Ray& r = sight.direction;
    const float a = dot(r, r), b = dot(r, c);
    const float root = b * b - a * (dot(c, c) - 1);
    if (root <= 0 || b <= 0)
        return sight;
    const float along = (b - std::sqrt(root)) / a;
    sight.is_ball = true;
    for (std::size_t i = 0; i < 3; ++i)
        sight.normal[i] = r[i] * along - c[i];
    const float twice = 2 * dot(r, sight.normal);
    for (std::size_t i = 0; i < 3; ++i)
        sight.direction[i] -= twice * sight.normal[i];
    return sight;
}

DirectionFootprint quad_footprint(const CubeScene& scene, std::uint32_t column, std::uint32_t row) {
    const std::uint32_t left = column & ~1U, top = row & ~1U;
    const Ray corner = sight_at(scene, left, top).direction;
    const Ray right = sight_at(scene, left + 1, top).direction;
    const Ray below = sight_at(scene, left, top + 1).direction;
    DirectionFootprint footprint;
    for (std::size_t i = 0; i < 3; ++i) {
        footprint.dx[i] = right[i] - corner[i];
        footprint.dy[i] = below[i] - corner[i];
    }
    return footprint;
}

Rgba pixel_color(const CubeScene& scene, const CubeSampler& sampler, std::uint32_t column,
                 std::uint32_t row) {
    const Sight sight = sight_at(scene, column, row);
    Rgba light{};
    if (sight.is_ball && scene.matt_ball) {
        const auto matt = scene.matt_ball->reflected({static_cast<double>(sight.normal[0]),
                                                      static_cast<double>(sight.normal[1]),
                                                      static_cast<double>(sight.normal[2])});
        for (std::size_t c = 0; c < 3; ++c)
            light[c] = static_cast<float>(matt[c]);
    } else if (const auto level = sight.is_ball ? scene.ball_level : scene.sky_level) {
        light = sampler.sample_level(sight.direction, *level);
    } else {
        light = sampler.sample(sight.direction, quad_footprint(scene, column, row));
    }
    for (std::size_t c = 0; c < 3; ++c)
        light[c] *= scene.exposure;
    return light;
}

}  // namespace

CubeScene sky_scene(const SkyOptions& options) {
    return scene_with(options, static_cast<double>(options.field_of_view) * radians);
}

CubeScene ball_scene(const SkyOptions& options) {
    constexpr double share_of_height = 0.84;
    const double half_ball = std::asin(1 / ball_distance);
    const double half_height = std::atan(std::tan(half_ball) / share_of_height);
    CubeScene scene = scene_with(options, 2 * half_height);
    const Vector ahead = camera(options).col(2) * ball_distance;
    scene.ball_middle = {static_cast<float>(ahead.x()), static_cast<float>(ahead.y()),
                         static_cast<float>(ahead.z())};
    return scene;
}

float level_of_roughness(const Texture& cube, float roughness) {
    const auto known = roughness_of_levels(cube);
    const std::uint32_t levels = cube.shape().levels;
    if (known.size() != levels)
        return roughness * static_cast<float>(levels - 1);
    for (std::uint32_t level = 1; level < levels; ++level)
        if (roughness <= known[level]) {
            const float span = known[level] - known[level - 1];
            const float share = span > 0 ? (roughness - known[level - 1]) / span : 1;
            return static_cast<float>(level - 1) + std::max(share, 0.0F);
        }
    return static_cast<float>(levels - 1);
}

Result<Image> draw_cube_scene(const CubeScene& scene, const CubeSampler& sampler) try {
    return draw_pixels(scene, [&](std::uint32_t column, std::uint32_t row) {
        return pixel_color(scene, sampler, column, row);
    });
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
