#include <yl/scene.hpp>

#include <Eigen/Dense>

#include <numbers>

namespace yl {
namespace {

using Matrix = Eigen::Matrix3d;
using Vector = Eigen::Vector3d;

constexpr double radians = std::numbers::pi / 180;

/// From a pixel to the direction in which the camera sees it: x to the right, y up, z ahead.
Matrix ray_from_pixel(double width, double height, double field_of_view) {
    const double step = 2 * std::tan(field_of_view * radians / 2) / height;
    return (Matrix() << step, 0, -step * width / 2, 0, -step, step * height / 2, 0, 0, 1)
        .finished();
}

std::array<float, 9> rows_of(const Matrix& matrix) {
    std::array<float, 9> rows{};
    for (int i = 0; i < 9; ++i)
        rows[static_cast<std::size_t>(i)] = static_cast<float>(matrix(i / 3, i % 3));
    return rows;
}

}  // namespace

Scene floor_scene(const FloorOptions& options) {
    const Matrix ray =
        ray_from_pixel(options.width, options.height, static_cast<double>(options.field_of_view));
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
    scene.texture_from_pixel = rows_of(texture_from_ray * pitch * ray);
    return scene;
}

Scene panel_scene(const PanelOptions& options) {
    constexpr double field_of_view = 36;
    constexpr double share_of_picture = 0.86;
    const double view_height = 2 * std::tan(field_of_view * radians / 2);
    const double view_width = view_height * options.width / options.height;
    const double aspect =
        static_cast<double>(options.texture_aspect * options.tiles[0] / options.tiles[1]);
    const double panel_height = share_of_picture * std::min(view_height, view_width / aspect);

    // The panel hangs one unit ahead; its columns are where u and v lead, and its corner (0, 0).
    const Matrix rotation =
        (Eigen::AngleAxisd(static_cast<double>(options.turn) * -radians, Vector::UnitY()) *
         Eigen::AngleAxisd(static_cast<double>(options.tilt) * radians, Vector::UnitX()))
            .matrix();
    const Vector across = rotation * Vector(panel_height * aspect, 0, 0);
    const Vector down = rotation * Vector(0, -panel_height, 0);
    Matrix point_from_texture;
    point_from_texture << across / static_cast<double>(options.tiles[0]),
        down / static_cast<double>(options.tiles[1]), Vector(0, 0, 1) - (across + down) / 2;
    const Matrix texture_from_ray = point_from_texture.inverse();
    Scene scene;
    scene.width = options.width;
    scene.height = options.height;
    scene.texture_from_pixel =
        rows_of(texture_from_ray * ray_from_pixel(options.width, options.height, field_of_view));
    scene.is_bounded = true;
    scene.u_end = options.tiles[0];
    scene.v_end = options.tiles[1];
    return scene;
}

}  // namespace yl
