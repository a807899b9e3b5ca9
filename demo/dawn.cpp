#include "dawn.hpp"

#include <cmath>
#include <cstring>

#include <yl/yl.hpp>
#include "noise.hpp"

namespace glasshouse {
namespace {

using Color = std::array<double, 3>;

Color blend(const Color& a, const Color& b, double share_of_b) {
    Color result{};
    for (std::size_t c = 0; c < 3; ++c)
        result[c] = a[c] + (b[c] - a[c]) * share_of_b;
    return result;
}

/// Noise in a flat layer, x and z from -4 to 4; `cells` to the unit.
double layer_noise(double x, double z, std::uint32_t cells, int octaves, std::uint32_t seed) {
    return layered_noise((std::clamp(x, -3.99, 3.99) + 4) / 8, (std::clamp(z, -3.99, 3.99) + 4) / 8,
                         8 * cells, 8 * cells, octaves, seed);
}

constexpr double sun_yaw = -0.62, sun_height = 0.13;  // radians

Color sky(const yl::Direction& d, double towards_sun) {
    const double up = std::max(d[1], 0.0);
    const Color zenith = {0.05, 0.09, 0.22}, horizon = {0.42, 0.34, 0.36};
    const Color glow = {1.5, 0.62, 0.2};
    Color color = blend(horizon, zenith, ramp(0, 0.75, std::sqrt(up)));
    const double near_sun = std::pow(std::max(towards_sun, 0.0), 6) * ramp(0.6, 0.0, up);
    color = blend(color, glow, 0.85 * near_sun);
    // Clouds in a flat layer: nearer to the horizon they stand closer together.
    const double height = up + 0.12;
    const double cover = layer_noise(d[0] / height * 0.28, d[2] / height * 0.28, 5, 6, 17);
    const double cloud = ramp(0.48, 0.68, cover) * ramp(0.02, 0.12, up);
    const Color lit =
        blend({0.34, 0.30, 0.36}, {2.2, 0.9, 0.42}, std::pow(0.5 + 0.5 * towards_sun, 5));
    return blend(color, lit, 0.8 * cloud);
}

Color garden(const yl::Direction& d) {
    const double down = std::max(-d[1], 0.02);
    const double x = d[0] / down * 0.3, z = d[2] / down * 0.3;
    const double far = ramp(0.3, 0.02, down);
    const double tuft = layer_noise(x, z, 24, 5, 51);
    const Color grass = {0.03 + 0.05 * tuft, 0.05 + 0.09 * tuft, 0.03 + 0.03 * tuft};
    // A paved path runs from below the viewer to the front right.
    const double along = x * 0.55 - z * 0.5;
    const double path =
        ramp(0.22, 0.17, std::abs(along)) * (d[2] > -0.2 ? 1 : ramp(0.5, 0.2, -d[2]));
    const Color stone = {0.16 + 0.1 * tuft, 0.15 + 0.09 * tuft, 0.16 + 0.08 * tuft};
    return blend(blend(grass, stone, path), {0.2, 0.17, 0.18}, 0.7 * far);
}

}  // namespace

Color dawn_light(const yl::Direction& direction) {
    const double length = std::hypot(direction[0], direction[1], direction[2]);
    const yl::Direction d = {direction[0] / length, direction[1] / length, direction[2] / length};
    const double towards_sun = d[0] * std::sin(sun_yaw) * std::cos(sun_height) +
                               d[1] * std::sin(sun_height) +
                               d[2] * std::cos(sun_yaw) * std::cos(sun_height);
    const double around = std::atan2(d[0], d[2]) / (2 * 3.141592653589793) + 0.5;
    const double hedge = 0.03 + 0.07 * layered_noise(around, 0.3, 24, 4, 4, 71);
    const Color leaves = {0.012, 0.02, 0.014};
    Color color = d[1] > 0 ? sky(d, towards_sun) : garden(d);
    const double disk = ramp(std::cos(0.034), std::cos(0.026), towards_sun);
    color = blend(color, {60, 34, 14}, disk);
    const double behind_hedge = ramp(hedge, hedge - 0.012, d[1]) * ramp(-0.07, -0.05, d[1]);
    return blend(color, leaves, 0.96 * behind_hedge);
}

yl::Result<std::vector<yl::Image>> dawn_faces(std::uint32_t size) {
    std::vector<yl::Image> faces;
    for (const yl::CubeFace face : yl::all_cube_faces) {
        auto image = yl::Image::create(yl::Format::rgb32_float, size, size);
        if (!image)
            return tl::unexpected(image.error());
        for (std::uint32_t y = 0; y < size; ++y)
            for (std::uint32_t x = 0; x < size; ++x) {
                std::array<float, 3> pixel{};
                for (const double j : {0.25, 0.75})
                    for (const double i : {0.25, 0.75}) {
                        const Color light =
                            dawn_light(yl::direction_at({face, (x + i) / size, (y + j) / size}));
                        for (std::size_t c = 0; c < 3; ++c)
                            pixel[c] += static_cast<float>(light[c] / 4);
                    }
                std::memcpy(image->view().row(y).data() + x * sizeof pixel, pixel.data(),
                            sizeof pixel);
            }
        faces.push_back(std::move(*image));
    }
    return faces;
}

yl::Result<yl::Image> dawn_panorama(std::uint32_t width) {
    auto image = yl::Image::create(yl::Format::rgb32_float, width, width / 2);
    if (!image)
        return image;
    for (std::uint32_t y = 0; y < width / 2; ++y)
        for (std::uint32_t x = 0; x < width; ++x) {
            std::array<float, 3> pixel{};
            for (const double j : {0.25, 0.75})
                for (const double i : {0.25, 0.75}) {
                    const auto direction = yl::direction_of_place(
                        yl::CubeLayout::panorama, {(x + i) / width, (y + j) / (width / 2)});
                    const Color light = dawn_light(*direction);
                    for (std::size_t c = 0; c < 3; ++c)
                        pixel[c] += static_cast<float>(light[c] / 4);
                }
            std::memcpy(image->view().row(y).data() + x * sizeof pixel, pixel.data(), sizeof pixel);
        }
    return image;
}

yl::Status write_dawn(const std::string& folder) {
    constexpr std::uint32_t face_size = 128;
    const auto panorama = dawn_panorama(8 * face_size);
    if (!panorama)
        return tl::unexpected(panorama.error());
    auto written = yl::write_picture(folder + "/dawn.hdr", panorama->view());
    const auto faces = dawn_faces(face_size);
    if (!faces || !written)
        return tl::unexpected((faces ? written.error() : faces.error()));
    std::array<yl::ConstImageView, 6> views;
    for (std::size_t i = 0; i < 6; ++i)
        views[i] = (*faces)[i].view();
    const auto cube = yl::cube_of_faces(views);
    if (!cube)
        return tl::unexpected(cube.error());
    const auto cross = yl::picture_of_cube(*cube, yl::CubeLayout::horizontal_cross);
    if (!cross)
        return tl::unexpected(cross.error());
    const auto halves = yl::convert(cross->view(), yl::Format::rgb16_float, {});
    if (!halves)
        return tl::unexpected(halves.error());
    written = yl::write_picture(folder + "/dawn_cross.exr", halves->view());
    using enum yl::CubeFace;
    struct Scrambled {
        yl::CubeFace called, shown;
        yl::Orientation orientation;
    };
    constexpr Scrambled scrambled[] = {
        {right, front, yl::Orientation::none},      {left, left, yl::Orientation::none},
        {top, top, yl::Orientation::quarter_right}, {bottom, bottom, yl::Orientation::none},
        {front, right, yl::Orientation::none},      {back, back, yl::Orientation::mirror}};
    for (const Scrambled& one : scrambled) {
        const auto image =
            yl::with_orientation(views[static_cast<std::size_t>(one.shown)], one.orientation);
        if (!image || !written)
            return tl::unexpected(image ? written.error() : image.error());
        written = yl::write_picture(folder + "/dawn_" + std::string(yl::name(one.called)) + ".hdr",
                                    image->view());
    }
    return written;
}

}  // namespace glasshouse
