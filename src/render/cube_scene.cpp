#include <yl/scene.hpp>

#include <Eigen/Dense>
#include <Eigen/Geometry>

#include <numbers>

#include "base/out_of_memory.hpp"
#include "render/scene_walk.hpp"

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

/// Where pixels look: straight into the sky, or mirrored in the ball.
enum class Through { sky, ball };

/// What the ball hides of a pixel, and the ball's normal there.
struct BallAt {
    float coverage = 0;
    Ray normal = {};
};

Ray ray_at(const CubeScene& scene, std::uint32_t column, std::uint32_t row) {
    const float x = static_cast<float>(column) + 0.5F, y = static_cast<float>(row) + 0.5F;
    const auto& m = scene.direction_from_pixel;
    return {m[0] * x + m[1] * y + m[2], m[3] * x + m[4] * y + m[5], m[6] * x + m[7] * y + m[8]};
}

/// Half of the discriminant of the ray's meeting with the ball is positive inside of the outline;
/// over the length of its gradient it is the distance from there in pixels.
BallAt ball_at(const CubeScene& scene, const Ray& r) {
    if (!scene.ball_middle)
        return {};
    const Ray& c = *scene.ball_middle;
    const auto& m = scene.direction_from_pixel;
    const float a = dot(r, r), b = dot(r, c), outside = dot(c, c) - 1;
    const float root = b * b - a * outside;
    const auto slope = [&](const Ray& step) {
        return 2 * (b * dot(step, c) - outside * dot(step, r));
    };
    const float across = slope({m[0], m[3], m[6]}), down = slope({m[1], m[4], m[7]});
    const float steepness = std::sqrt(across * across + down * down);
    BallAt ball;
    if (b > 0 && steepness > 0)
        ball.coverage = std::clamp(0.5F + root / steepness, 0.0F, 1.0F);
    const float along = (b - std::sqrt(std::max(root, 0.0F))) / a;
    for (std::size_t i = 0; i < 3; ++i)
        ball.normal[i] = r[i] * along - c[i];
    return ball;
}

Ray direction_at(const CubeScene& scene, std::uint32_t column, std::uint32_t row, Through through) {
    Ray direction = ray_at(scene, column, row);
    if (through == Through::sky)
        return direction;
    const Ray normal = ball_at(scene, direction).normal;
    const float twice = 2 * dot(direction, normal);
    for (std::size_t i = 0; i < 3; ++i)
        direction[i] -= twice * normal[i];
    return direction;
}

DirectionFootprint quad_footprint(const CubeScene& scene, std::uint32_t column, std::uint32_t row,
                                  Through through) {
    const std::uint32_t left = column & ~1U, top = row & ~1U;
    const Ray corner = direction_at(scene, left, top, through);
    const Ray right = direction_at(scene, left + 1, top, through);
    const Ray below = direction_at(scene, left, top + 1, through);
    DirectionFootprint footprint;
    for (std::size_t i = 0; i < 3; ++i) {
        footprint.dx[i] = right[i] - corner[i];
        footprint.dy[i] = below[i] - corner[i];
    }
    return footprint;
}

Rgba light_through(const CubeScene& scene, const CubeSampler& sampler, std::uint32_t column,
                   std::uint32_t row, Through through) {
    const Ray direction = direction_at(scene, column, row, through);
    if (const auto level = through == Through::ball ? scene.ball_level : scene.sky_level)
        return sampler.sample_level(direction, *level);
    return sampler.sample(direction, quad_footprint(scene, column, row, through));
}

Rgba light_of_ball(const CubeScene& scene, const CubeSampler& sampler, const Ray& normal,
                   std::uint32_t column, std::uint32_t row) {
    if (!scene.matt_ball)
        return light_through(scene, sampler, column, row, Through::ball);
    const auto matt =
        scene.matt_ball->reflected({static_cast<double>(normal[0]), static_cast<double>(normal[1]),
                                    static_cast<double>(normal[2])});
    return {static_cast<float>(matt[0]), static_cast<float>(matt[1]), static_cast<float>(matt[2]),
            1};
}

Rgba pixel_color(const CubeScene& scene, const CubeSampler& sampler, std::uint32_t column,
                 std::uint32_t row) {
    const BallAt ball = ball_at(scene, ray_at(scene, column, row));
    Rgba light{};
    if (ball.coverage < 1)
        light = light_through(scene, sampler, column, row, Through::sky);
    if (ball.coverage > 0)
        light = mix(light, light_of_ball(scene, sampler, ball.normal, column, row), ball.coverage);
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
