#include <yl/scene.hpp>

#include <Eigen/Dense>
#include <Eigen/Geometry>

#include <numbers>

namespace yl {
namespace {

using Matrix = Eigen::Matrix3d;
using Vector = Eigen::Vector3d;

constexpr double radians = std::numbers::pi / 180;

std::array<float, 9> rows_of(const Matrix& matrix) {
    std::array<float, 9> rows{};
    for (int i = 0; i < 9; ++i)
        rows[static_cast<std::size_t>(i)] = static_cast<float>(matrix(i / 3, i % 3));
    return rows;
}

}  // namespace

Scene floor_scene(const FloorOptions& options) {
    // From a pixel to the direction in which the camera sees it: x to the right, y up, z ahead.
    const double width = options.width;
    const double height = options.height;
    const double step =
        2 * std::tan(static_cast<double>(options.field_of_view) * radians / 2) / height;
    const Matrix ray_from_pixel =
        (Matrix() << step, 0, -step * width / 2, 0, -step, step * height / 2, 0, 0, 1).finished();
    const Matrix pitch =
        Eigen::AngleAxisd(static_cast<double>(options.pitch) * radians, Vector::UnitX()).matrix();
    // A ray of direction d from one unit above the floor meets it at (d.x, d.z) / -d.y. The image's
    // top points away from the viewer, and one repeat is centred on the viewer's line of sight.
    const double repeats = static_cast<double>(options.repeats);
    const Matrix texture_from_ray =
        (Matrix() << repeats, -0.5, 0, 0, 0, -repeats, 0, -1, 0).finished();
    Scene scene;
    scene.width = options.width;
    scene.height = options.height;
    const Matrix texture_from_pixel = texture_from_ray * pitch * ray_from_pixel;
    scene.texture_from_pixel = rows_of(texture_from_pixel);
    const Matrix plane_from_world = (Matrix() << 1, 0, 0, 0, 0, 1, 0, 1, 0).finished();
    scene.viewer_from_pixel = rows_of(-plane_from_world * pitch * ray_from_pixel);
    constexpr double rows_below_horizon = 2.5;
    scene.min_q = static_cast<float>(rows_below_horizon * texture_from_pixel(2, 1));
    return scene;
}

Scene panel_scene(const PanelOptions& options) {
    // The panel hangs before the camera; its columns are where u and v lead, and its corner (0, 0).
    constexpr double distance = 2.2;  // in the panel's longer side: near enough to see perspective
    const double aspect =
        static_cast<double>(options.texture_aspect * options.tiles[0] / options.tiles[1]);
    const Matrix rotation =
        (Eigen::AngleAxisd(static_cast<double>(options.turn) * -radians, Vector::UnitY()) *
         Eigen::AngleAxisd(static_cast<double>(options.tilt) * radians, Vector::UnitX()))
            .matrix();
    const Vector across = rotation * Vector(aspect, 0, 0) / std::max(aspect, 1.0);
    const Vector down = rotation * Vector(0, -1, 0) / std::max(aspect, 1.0);
    const Vector corner = Vector(0, 0, distance) - (across + down) / 2;
    Matrix point_from_texture;
    point_from_texture << across / static_cast<double>(options.tiles[0]),
        down / static_cast<double>(options.tiles[1]), corner;

    // The lens is chosen and shifted so that the panel fills the picture.
    Eigen::AlignedBox2d seen;
    for (const Vector& point :
         {corner, Vector(corner + across), Vector(corner + down), Vector(corner + across + down)})
        seen.extend(point.hnormalized());
    constexpr double share_of_picture = 0.86;
    const double step =
        std::max(seen.sizes().x() / options.width, seen.sizes().y() / options.height) /
        share_of_picture;
    const Matrix ray_from_pixel =
        (Matrix() << step, 0, seen.center().x() - step * options.width / 2, 0, -step,
         seen.center().y() + step * options.height / 2, 0, 0, 1)
            .finished();
    Scene scene;
    scene.width = options.width;
    scene.height = options.height;
    scene.texture_from_pixel = rows_of(point_from_texture.inverse() * ray_from_pixel);
    Matrix plane_from_world;
    plane_from_world << across.normalized().transpose(), -down.normalized().transpose(),
        across.cross(down).normalized().transpose();
    scene.viewer_from_pixel = rows_of(-plane_from_world * ray_from_pixel);
    // Of a point of the panel q is 1 / depth, and its farthest point is a corner.
    const double max_depth = std::max(
        {corner.z(), (corner + across).z(), (corner + down).z(), (corner + across + down).z()});
    scene.min_q = static_cast<float>(0.9 / max_depth);
    scene.is_bounded = true;
    scene.u_end = options.tiles[0];
    scene.v_end = options.tiles[1];
    return scene;
}

}  // namespace yl
