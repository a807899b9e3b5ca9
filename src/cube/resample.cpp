#include "cube/resample.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/attempt.hpp"
#include "base/parallel.hpp"
#include "cube/light_cube.hpp"

namespace yl {
namespace {

constexpr int most_samples = 16;  ///< of a texel, across and down each
constexpr std::size_t rows_together = 8;

/// A picture of the sphere in working pixels. Panoramas go on at their sides, and behind a pole on
/// the other side of it; discs end.
class Sphere {
 public:
    Sphere(ConstImageView image, const WorkingFormat& format, CubeLayout layout)
        : width_(image.width),
          height_(image.height),
          is_panorama_(layout == CubeLayout::panorama),
          texels_(std::size_t{width_} * height_ * 4) {
        parallel_each(height_, [&](std::size_t y) {
            format.load(image.row(static_cast<std::uint32_t>(y)).data(),
                        texels_.data() + y * width_ * 4, width_);
        });
    }

    [[nodiscard]] std::uint32_t width() const { return width_; }
    [[nodiscard]] std::uint32_t height() const { return height_; }
    [[nodiscard]] bool is_panorama() const { return is_panorama_; }

    /// Catmull-Rom, without its ringing beyond the four nearest texels, which would draw rings
    /// around the sun; x and y in texels from the top left corner.
    [[nodiscard]] Light sample(double x, double y) const {
        const double left = std::floor(x - 0.5), top = std::floor(y - 0.5);
        const auto across = weights(static_cast<float>(x - 0.5 - left));
        const auto down = weights(static_cast<float>(y - 0.5 - top));
        const auto first_x = static_cast<std::int64_t>(left) - 1;
        const auto first_y = static_cast<std::int64_t>(top) - 1;
        Light sum = {};
        const bool is_inside = first_x >= 0 && first_y >= 0 &&
                               first_x + 4 <= std::int64_t{width_} &&
                               first_y + 4 <= std::int64_t{height_};
        for (std::int64_t j = 0; j < 4; ++j) {
            Light row = {};
            const float* texel =
                is_inside
                    ? texels_.data() +
                          static_cast<std::size_t>((first_y + j) * std::int64_t{width_} + first_x) *
                              4
                    : nullptr;
            for (std::int64_t i = 0; i < 4; ++i) {
                const float* from = is_inside ? texel + 4 * i : texel_at(first_x + i, first_y + j);
                for (std::size_t c = 0; c < 4; ++c)
                    row[c] += across[static_cast<std::size_t>(i)] * from[c];
            }
            for (std::size_t c = 0; c < 4; ++c)
                sum[c] += down[static_cast<std::size_t>(j)] * row[c];
        }
        return limited(sum, first_x + 1, first_y + 1);
    }

 private:
    [[nodiscard]] Light limited(Light light, std::int64_t x, std::int64_t y) const {
        const float *a = texel_at(x, y), *b = texel_at(x + 1, y);
        const float *c = texel_at(x, y + 1), *d = texel_at(x + 1, y + 1);
        for (std::size_t i = 0; i < 4; ++i)
            light[i] = std::clamp(light[i], std::min({a[i], b[i], c[i], d[i]}),
                                  std::max({a[i], b[i], c[i], d[i]}));
        return light;
    }

    static std::array<float, 4> weights(float t) {
        const float t2 = t * t, t3 = t2 * t;
        return {0.5F * (-t3 + 2 * t2 - t), 0.5F * (3 * t3 - 5 * t2 + 2),
                0.5F * (-3 * t3 + 4 * t2 + t), 0.5F * (t3 - t2)};
    }

    [[nodiscard]] const float* texel_at(std::int64_t x, std::int64_t y) const {
        const std::int64_t w = width_, h = height_;
        if (is_panorama_) {
            if (y < 0 || y >= h) {
                y = std::clamp<std::int64_t>(y < 0 ? -1 - y : 2 * h - 1 - y, 0, h - 1);
                x += w / 2;
            }
            x = ((x % w) + w) % w;
        }
        return texels_.data() + static_cast<std::size_t>(std::clamp<std::int64_t>(y, 0, h - 1) * w +
                                                         std::clamp<std::int64_t>(x, 0, w - 1)) *
                                    4;
    }

    std::uint32_t width_, height_;
    bool is_panorama_;
    std::vector<float> texels_;
};

using Place = std::array<double, 2>;

/// The places of a face's texels in a picture, a row at a time. Panoramas are reckoned here by
/// single-precision arcs, as they are needed by the million.
class RowOfPlaces {
 public:
    RowOfPlaces(CubeLayout layout, std::size_t face, std::uint32_t size, const Sphere& sphere)
        : layout_(layout), face_(face), size_(size), sphere_(sphere) {}

    /// In texels of the picture, for the middles of row `y`.
    void fill(double y, std::vector<Place>& places) const {
        for (std::uint32_t x = 0; x < size_; ++x) {
            const Direction d = direction_at(middle_of(face_, x, y, size_));
            const Place place = layout_ == CubeLayout::panorama ? panorama_place(d)
                                                                : place_of_direction(layout_, d);
            places[x] = {place[0] * sphere_.width(), place[1] * sphere_.height()};
        }
    }

 private:
    static Place panorama_place(const Direction& d) {
        constexpr float pi = std::numbers::pi_v<float>;
        const auto x = static_cast<float>(d[0]), y = static_cast<float>(d[1]),
                   z = static_cast<float>(d[2]);
        return {static_cast<double>(0.5F + std::atan2(x, z) / (2 * pi)),
                static_cast<double>(std::atan2(std::sqrt(x * x + z * z), y) / pi)};
    }

    CubeLayout layout_;
    std::size_t face_;
    std::uint32_t size_;
    const Sphere& sphere_;
};

/// How far the picture goes on from one texel to the next; panoramas the short way round.
Place step_between(const Place& a, const Place& b, const Sphere& sphere) {
    Place step = {b[0] - a[0], b[1] - a[1]};
    if (sphere.is_panorama())
        step[0] -= sphere.width() * std::round(step[0] / sphere.width());
    return step;
}

int samples_for(const Place& step) {
    const double length = std::hypot(step[0], step[1]);
    return std::clamp(static_cast<int>(std::ceil(length - 0.25)), 1, most_samples);
}

/// The mean over a texel whose sides are these steps in the picture.
Light sample_texel(const Sphere& sphere, const Place& middle, const Place& across,
                   const Place& down) {
    const int columns = samples_for(across), rows = samples_for(down);
    if (columns == 1 && rows == 1)
        return sphere.sample(middle[0], middle[1]);
    Light sum = {};
    for (int j = 0; j < rows; ++j)
        for (int i = 0; i < columns; ++i) {
            const double a = (i + 0.5) / columns - 0.5, b = (j + 0.5) / rows - 0.5;
            const Light one = sphere.sample(middle[0] + a * across[0] + b * down[0],
                                            middle[1] + a * across[1] + b * down[1]);
            for (std::size_t c = 0; c < 4; ++c)
                sum[c] += one[c];
        }
    for (float& value : sum)
        value /= static_cast<float>(columns * rows);
    return sum;
}

Status check(const WorkingFormat& format) {
    if (format.codec.load == nullptr)
        return fail(ErrorKind::unsupported, "blocks have to be unpacked before they are laid out");
    return {};
}

/// The mean of the cube over a pixel of a panorama or ball, from as many directions as it is
/// coarser than the faces.
Light sample_pixel(const LightCube& light, CubeLayout layout, double x, double y,
                   const std::array<std::uint32_t, 2>& sides) {
    const auto direction = [&](double px, double py) {
        return direction_of_place(layout, {px / sides[0], py / sides[1]});
    };
    const auto middle = direction(x + 0.5, y + 0.5);
    if (!middle)
        return {};
    // A face has `size` texels for a quarter of a circle.
    const double texels_for_pixel =
        light.size() * (layout == CubeLayout::panorama ? 4.0 : 2.0) / sides[0];
    const int count =
        std::clamp(static_cast<int>(std::ceil(texels_for_pixel - 0.25)), 1, most_samples);
    Light sum = {};
    float found = 0;
    for (int j = 0; j < count; ++j)
        for (int i = 0; i < count; ++i) {
            const auto d =
                count == 1 ? middle : direction(x + (i + 0.5) / count, y + (j + 0.5) / count);
            if (!d)
                continue;
            const Light one = light.sample(*d);
            for (std::size_t c = 0; c < 4; ++c)
                sum[c] += one[c];
            ++found;
        }
    for (float& value : sum)
        value /= std::max(found, 1.0F);
    return sum;
}

}  // namespace

Status resample_to_faces(ConstImageView picture, CubeLayout layout, Texture& cube) {
    const WorkingFormat format = working_format_of(cube);
    YL_CHECK(check(format));
    const Sphere sphere(picture, format, layout);
    const std::uint32_t size = cube.shape().width;
    const std::size_t pieces = (size + rows_together - 1) / rows_together;
    parallel_each(6 * pieces, [&](std::size_t index) {
        const std::size_t face = index / pieces;
        const auto begin = static_cast<std::uint32_t>(index % pieces * rows_together);
        const std::uint32_t end = std::min(begin + static_cast<std::uint32_t>(rows_together), size);
        const RowOfPlaces row_of_places(layout, face, size, sphere);
        std::vector<Place> here(size), below(size);
        std::vector<float> rgba(std::size_t{size} * 4), scratch(rgba.size());
        row_of_places.fill(begin, here);
        for (std::uint32_t y = begin; y < end; ++y) {
            row_of_places.fill(y + 1.0, below);
            for (std::uint32_t x = 0; x < size; ++x) {
                const Place across = x + 1 < size ? step_between(here[x], here[x + 1], sphere)
                                     : x > 0      ? step_between(here[x - 1], here[x], sphere)
                                                  : Place{};
                const Light light =
                    sample_texel(sphere, here[x], across, step_between(here[x], below[x], sphere));
                std::copy(light.begin(), light.end(), &rgba[std::size_t{x} * 4]);
            }
            format.store(rgba.data(), scratch.data(),
                         cube.image(0, 0, static_cast<std::uint32_t>(face)).row(y).data(), size,
                         {y, 0});
            std::swap(here, below);
        }
    });
    return {};
}

Status resample_to_picture(const Texture& cube, std::uint32_t level, std::uint32_t layer,
                           CubeLayout layout, ImageView picture) {
    const WorkingFormat format = working_format_of(cube);
    YL_CHECK(check(format));
    const LightCube light = LightCube::of(cube, level, layer, format);
    parallel_each(picture.height, [&](std::size_t index) {
        const auto y = static_cast<std::uint32_t>(index);
        std::vector<float> rgba(std::size_t{picture.width} * 4), scratch(rgba.size());
        for (std::uint32_t x = 0; x < picture.width; ++x) {
            const Light one = sample_pixel(light, layout, x, y, {picture.width, picture.height});
            std::copy(one.begin(), one.end(), &rgba[std::size_t{x} * 4]);
        }
        format.store(rgba.data(), scratch.data(), picture.row(y).data(), picture.width, {y, level});
    });
    return {};
}

}  // namespace yl
