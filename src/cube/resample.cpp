#include "cube/resample.hpp"

#include <fmt/format.h>
#include <bit>

#include <algorithm>
#include <atomic>
#include <cmath>

#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "base/parallel.hpp"
#include "cube/light_cube.hpp"
#include "cube/panorama_simd.hpp"
#include "pixel/pixel_math.hpp"

namespace yl {
namespace {

constexpr float most_for_one = 1.5F;  ///< texels that one sample does for
constexpr int most_samples = 64;      ///< of a texel, across and down each
constexpr std::size_t rows_together = 16;

/// A picture of the sphere in working pixels. Panoramas go on at their sides, and behind a pole on
/// the other side of it; octahedra go on where their edges are folded together; discs end.
class Sphere {
 public:
    static Result<Sphere> of(ConstImageView image, const WorkingFormat& format, CubeLayout layout) {
        if (is_working_already(image, format))
            return Sphere(image, layout, {});
        YL_TRY(Image working, Image::create(Format::rgba32_float, image.width, image.height,
                                            {.max_bytes = ~std::uint64_t{0}}));
        const ImageView rows = working.view();
        parallel_each(image.height, [&](std::size_t index) {
            const auto y = static_cast<std::uint32_t>(index);
            format.load(image.row(y).data(), reinterpret_cast<float*>(rows.row(y).data()),
                        image.width);
        });
        return Sphere(rows, layout, std::move(working));
    }

    [[nodiscard]] std::uint32_t width() const { return width_; }
    [[nodiscard]] std::uint32_t height() const { return height_; }
    [[nodiscard]] bool goes_round() const {
        return layout_ == CubeLayout::panorama || layout_ == CubeLayout::half_panorama;
    }
    /// Whether neighbours on the sphere may lie far apart in the picture.
    [[nodiscard]] bool has_folds() const {
        return layout_ == CubeLayout::octahedral || layout_ == CubeLayout::dual_paraboloid;
    }

    /// Catmull-Rom, without its ringing beyond the four nearest texels, which would draw rings
    /// around the sun; x and y in texels from the top left corner.
    [[nodiscard]] Pixel sample(float x, float y) const {
        const int left = floor_of(x - 0.5F), top = floor_of(y - 0.5F);
        const Pixel across = weights(x - 0.5F - static_cast<float>(left));
        const Pixel down = weights(y - 0.5F - static_cast<float>(top));
        std::array<float, 64> copied;
        const Window window = window_at(left - 1, top - 1, 4, copied.data());
        Pixel sum = {};
        for (std::size_t j = 0; j < 4; ++j) {
            const float* t = window.corner + j * window.row_floats;
            sum += down[j] * ((across[0] * load_pixel(t) + across[1] * load_pixel(t + 4)) +
                              (across[2] * load_pixel(t + 8) + across[3] * load_pixel(t + 12)));
        }
        const float* inner = window.corner + window.row_floats + 4;
        const Pixel a = load_pixel(inner), b = load_pixel(inner + 4);
        const Pixel c = load_pixel(inner + window.row_floats),
                    d = load_pixel(inner + window.row_floats + 4);
        return min_of(max_of(sum, min_of(min_of(a, b), min_of(c, d))),
                      max_of(max_of(a, b), max_of(c, d)));
    }

    /// Bilinear: enough where several samples are averaged.
    [[nodiscard]] Pixel quick_sample(float x, float y) const {
        const int left = floor_of(x - 0.5F), top = floor_of(y - 0.5F);
        const float across = x - 0.5F - static_cast<float>(left);
        const float down = y - 0.5F - static_cast<float>(top);
        std::array<float, 16> copied;
        const Window window = window_at(left, top, 2, copied.data());
        const float* below = window.corner + window.row_floats;
        const Pixel a = load_pixel(window.corner), b = load_pixel(window.corner + 4);
        const Pixel c = load_pixel(below), d = load_pixel(below + 4);
        const Pixel upper = a + (b - a) * across, lower = c + (d - c) * across;
        return upper + (lower - upper) * down;
    }

 private:
    /// Some texels beside and below each other.
    struct Window {
        const float* corner;
        std::size_t row_floats;
    };

    static int floor_of(float value) {
        const int whole = static_cast<int>(value);
        return whole - (value < static_cast<float>(whole) ? 1 : 0);
    }

    /// `side` texels across and down; copied together where they lie beyond an edge.
    [[nodiscard]] Window window_at(int x, int y, int side, float* copied) const {
        if (x >= 0 && y >= 0 && x + side <= static_cast<int>(width_) &&
            y + side <= static_cast<int>(height_))
            return {
                texels_ + (static_cast<std::size_t>(y) * width_ + static_cast<std::size_t>(x)) * 4,
                std::size_t{width_} * 4};
        float* target = copied;
        for (int j = 0; j < side; ++j)
            for (int i = 0; i < side; ++i, target += 4)
                std::copy_n(texel_at(x + i, y + j), 4, target);
        return {copied, static_cast<std::size_t>(side) * 4};
    }

    /// Of the four texels around a place, t after the second one.
    static Pixel weights(float t) {
        constexpr Pixel once = {-0.5F, 0, 0.5F, 0}, squared = {1, -2.5F, 2, -0.5F};
        constexpr Pixel cubed = {-0.5F, 1.5F, -1.5F, 0.5F}, always = {0, 1, 0, 0};
        return always + t * (once + t * (squared + t * cubed));
    }

    [[nodiscard]] const float* texel_at(std::int64_t x, std::int64_t y) const {
        const std::int64_t w = width_, h = height_;
        if (goes_round()) {
            const bool is_beyond_pole = y < 0 || (y >= h && layout_ == CubeLayout::panorama);
            if (is_beyond_pole) {
                y = std::clamp<std::int64_t>(y < 0 ? -1 - y : 2 * h - 1 - y, 0, h - 1);
                x += w / 2;
            }
            x = ((x % w) + w) % w;
        } else if (layout_ == CubeLayout::octahedral) {
            if (x < 0 || x >= w) {
                x = x < 0 ? -1 - x : 2 * w - 1 - x;
                y = h - 1 - y;
            }
            if (y < 0 || y >= h) {
                y = y < 0 ? -1 - y : 2 * h - 1 - y;
                x = w - 1 - x;
            }
        }
        return texels_ + static_cast<std::size_t>(std::clamp<std::int64_t>(y, 0, h - 1) * w +
                                                  std::clamp<std::int64_t>(x, 0, w - 1)) *
                             4;
    }

    Sphere(ConstImageView image, CubeLayout layout, Image working)
        : width_(image.width),
          height_(image.height),
          layout_(layout),
          working_(std::move(working)),
          texels_(reinterpret_cast<const float*>(image.data)) {}

    /// Floats that no alpha changes need not be copied.
    static bool is_working_already(ConstImageView image, const WorkingFormat& format) {
        if (image.format != Format::rgba32_float || image.row_stride != image.row_bytes() ||
            std::endian::native != std::endian::little)
            return false;
        std::atomic<bool> is_opaque = true;
        if (format.weigh_by_alpha)
            parallel_each(image.height, [&](std::size_t y) {
                const auto* row =
                    reinterpret_cast<const float*>(image.row(static_cast<std::uint32_t>(y)).data());
                for (std::size_t x = 0; x < image.width; ++x)
                    if (row[4 * x + 3] != 1)
                        is_opaque = false;
            });
        return is_opaque;
    }

    std::uint32_t width_, height_;
    CubeLayout layout_;
    Image working_;  ///< empty where the image itself is read
    const float* texels_;
};

/// The places of a row's texels in a picture, in its texels.
struct Places {
    explicit Places(std::uint32_t size) : x(size), y(size) {}
    std::vector<float> x, y;
};

/// For the middles of row `row` of a face, which may be the one after the last.
void fill_places(CubeLayout layout, std::size_t face, std::uint32_t size, std::uint32_t row,
                 const Sphere& sphere, Places& places) {
    if (layout == CubeLayout::panorama) {
        const Direction first = direction_at(middle_of(face, 0, row, size));
        const Direction second = direction_at(middle_of(face, 1, row, size));
        RowOfDirections directions{};
        for (std::size_t c = 0; c < 3; ++c) {
            directions.first[c] = static_cast<float>(first[c]);
            directions.step[c] = static_cast<float>(second[c] - first[c]);
        }
        panorama_places(directions, static_cast<float>(sphere.width()),
                        static_cast<float>(sphere.height()), places.x.data(), places.y.data(),
                        size);
        return;
    }
    for (std::uint32_t x = 0; x < size; ++x) {
        const auto place = place_of_direction(layout, direction_at(middle_of(face, x, row, size)));
        places.x[x] = static_cast<float>(place[0] * sphere.width());
        places.y[x] = static_cast<float>(place[1] * sphere.height());
    }
}

/// How far the picture goes on from one texel to the next; panoramas the short way round.
struct Step {
    float x, y;

    Step(float from_x, float from_y, float to_x, float to_y, const Sphere& sphere)
        : x(to_x - from_x), y(to_y - from_y) {
        const auto width = static_cast<float>(sphere.width());
        if (sphere.goes_round() && std::abs(x) > 0.5F * width)
            x -= std::copysign(width, x);
        constexpr float jump = 0.2F;  // of the width: no step of neighbours, but over a fold
        if (sphere.has_folds() && std::max(std::abs(x), std::abs(y)) > jump * width)
            x = y = 0;
    }
};

/// How many samples it takes to miss nothing over so many texels.
int samples_over(float texels) {
    return texels <= most_for_one ? 1 : std::min(static_cast<int>(texels) + 1, most_samples);
}

/// The mean over a texel whose sides are these steps in the picture: over a box as wide and high as
/// they are together, for pictures of the sphere are stretched along their own axes.
Pixel sample_texel(const Sphere& sphere, float x, float y, const Step& across, const Step& down) {
    const float width_square = across.x * across.x + down.x * down.x;
    const float height_square = across.y * across.y + down.y * down.y;
    if (std::max(width_square, height_square) <= most_for_one * most_for_one)
        return sphere.sample(x, y);
    const float width = std::sqrt(width_square), height = std::sqrt(height_square);
    const int columns = samples_over(width), rows = samples_over(height);
    Pixel sum = {};
    const float step_x = width / static_cast<float>(columns);
    const float step_y = height / static_cast<float>(rows);
    const float left = x - 0.5F * (width - step_x), top = y - 0.5F * (height - step_y);
    for (int j = 0; j < rows; ++j)
        for (int i = 0; i < columns; ++i)
            sum += sphere.quick_sample(left + static_cast<float>(i) * step_x,
                                       top + static_cast<float>(j) * step_y);
    return sum / static_cast<float>(columns * rows);
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
        light.size() * (sides[0] >= 2 * sides[1] ? 4.0 : 2.0) / sides[0];
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
    YL_TRY(const Sphere sphere, Sphere::of(picture, format, layout));
    const std::uint32_t size = cube.shape().width;
    const std::size_t pieces = (size + rows_together - 1) / rows_together;
    parallel_each(6 * pieces, [&](std::size_t index) {
        const std::size_t face = index / pieces;
        const auto begin = static_cast<std::uint32_t>(index % pieces * rows_together);
        const std::uint32_t end = std::min(begin + static_cast<std::uint32_t>(rows_together), size);
        Places here(size), below(size);
        std::vector<float> rgba(std::size_t{size} * 4), scratch(rgba.size());
        fill_places(layout, face, size, begin, sphere, here);
        for (std::uint32_t y = begin; y < end; ++y) {
            fill_places(layout, face, size, y + 1, sphere, below);
            for (std::uint32_t x = 0; x < size; ++x) {
                const std::uint32_t left = x + 1 < size || x == 0 ? x : x - 1;
                const std::uint32_t right = std::min(left + 1, size - 1);
                const Step across(here.x[left], here.y[left], here.x[right], here.y[right], sphere);
                const Step down(here.x[x], here.y[x], below.x[x], below.y[x], sphere);
                store_pixel(sample_texel(sphere, here.x[x], here.y[x], across, down),
                            &rgba[std::size_t{x} * 4]);
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
