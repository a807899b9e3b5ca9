#include <yl/cube.hpp>

#include <fmt/format.h>

#include <cmath>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "pixel/check.hpp"

namespace yl {
namespace {

/// Which axis a face's columns (s), rows (t) and middle run along, with their signs.
struct Frame {
    int s_axis, t_axis, middle_axis;
    double s_sign, t_sign, middle_sign;
};

constexpr Frame frames[] = {
    {2, 1, 0, -1, -1, 1},  // +X: s along -z, t along -y
    {2, 1, 0, 1, -1, -1},  // -X
    {0, 2, 1, 1, 1, 1},    // +Y
    {0, 2, 1, 1, -1, -1},  // -Y
    {0, 1, 2, 1, -1, 1},   // +Z
    {0, 1, 2, -1, -1, -1}  // -Z
};

std::size_t at(int axis) {
    return static_cast<std::size_t>(axis);
}

}  // namespace

std::string_view name(CubeFace face) {
    constexpr std::string_view names[] = {"right", "left", "top", "bottom", "front", "back"};
    return names[static_cast<std::size_t>(face)];
}

std::string_view axis_name(CubeFace face) {
    constexpr std::string_view names[] = {"+X", "-X", "+Y", "-Y", "+Z", "-Z"};
    return names[static_cast<std::size_t>(face)];
}

FacePoint face_point(const Direction& d) {
    // Where two coordinates are equally great, z goes before y and y before x, as drivers do.
    const double x = std::abs(d[0]), y = std::abs(d[1]), z = std::abs(d[2]);
    const int axis = z >= x && z >= y ? 2 : y >= x ? 1 : 0;
    const std::size_t face = at(2 * axis + (d[at(axis)] < 0 ? 1 : 0));
    const Frame& frame = frames[face];
    const double size = std::abs(d[at(axis)]);
    return {static_cast<CubeFace>(face), 0.5 + 0.5 * frame.s_sign * d[at(frame.s_axis)] / size,
            0.5 + 0.5 * frame.t_sign * d[at(frame.t_axis)] / size};
}

Direction direction_at(const FacePoint& point) {
    const Frame& frame = frames[static_cast<std::size_t>(point.face)];
    Direction d{};
    d[at(frame.s_axis)] = frame.s_sign * (2 * point.s - 1);
    d[at(frame.t_axis)] = frame.t_sign * (2 * point.t - 1);
    d[at(frame.middle_axis)] = frame.middle_sign;
    return d;
}

double texel_solid_angle(std::uint32_t x, std::uint32_t y, std::uint32_t size) {
    const auto corner = [&](std::uint32_t i, std::uint32_t j) {
        const double a = 2.0 * i / size - 1, b = 2.0 * j / size - 1;
        return std::atan2(a * b, std::sqrt(a * a + b * b + 1));
    };
    return corner(x + 1, y + 1) - corner(x, y + 1) - corner(x + 1, y) + corner(x, y);
}

Result<Texture> cube_of_faces(std::span<const ConstImageView, 6> faces,
                              const TextureMetadata& metadata) try {
    for (const ConstImageView& face : faces)
        YL_CHECK(check_view(face, "faces"));
    const ConstImageView& first = faces[0];
    for (std::size_t i = 0; i < faces.size(); ++i) {
        const ConstImageView& face = faces[i];
        if (face.width != face.height)
            return fail(ErrorKind::usage,
                        fmt::format("the {} face is {} x {}; faces are square",
                                    name(all_cube_faces[i]), face.width, face.height));
        if (face.width != first.width)
            return fail(ErrorKind::usage,
                        fmt::format("the {} face is {} x {}, and the {} face {} x {}; all six need "
                                    "one size",
                                    name(all_cube_faces[i]), face.width, face.height,
                                    name(all_cube_faces[0]), first.width, first.height));
        if (face.format != first.format)
            return fail(ErrorKind::usage,
                        fmt::format("the {} face is {}, and the {} face {}; all six need one "
                                    "format",
                                    name(all_cube_faces[i]), info(face.format).name,
                                    name(all_cube_faces[0]), info(first.format).name));
    }
    YL_TRY(Texture cube,
           Texture::create(
               {.format = first.format, .width = first.width, .height = first.height, .faces = 6}));
    cube.metadata = metadata;
    for (std::uint32_t i = 0; i < faces.size(); ++i) {
        const ImageView target = cube.image(0, 0, i);
        for (std::uint32_t y = 0; y < target.row_count(); ++y)
            std::copy_n(faces[i].row(y).data(), target.row_bytes(), target.row(y).data());
    }
    return cube;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
