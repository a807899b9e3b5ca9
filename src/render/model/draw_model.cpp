// A mesh drawn on the CPU, by the rules of graphics hardware.
#include <yl/scene.hpp>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "base/parallel.hpp"
#include "render/model/shade.hpp"
#include "render/scene_walk.hpp"

namespace yl {
namespace {

/// A triangle in the grid of samples: three edges, each 0 on its line and positive within.
struct Triangle {
    std::array<std::uint32_t, 3> corners = {};
    std::uint32_t draw = 0;
    bool is_front = true;
    std::array<std::array<double, 3>, 3> edges = {};  ///< x, y and 1, over the triangle's area
    std::array<float, 3> over_w = {};
    std::int32_t left = 0, right = 0, top = 0, bottom = 0;  ///< samples, both ends included

    /// Shares of the corners without perspective.
    [[nodiscard]] std::array<double, 3> flat_shares(double x, double y) const {
        std::array<double, 3> shares{};
        for (std::size_t i = 0; i < 3; ++i)
            shares[i] = edges[i][0] * x + edges[i][1] * y + edges[i][2];
        return shares;
    }
    [[nodiscard]] std::array<float, 3> shares(double x, double y, float* depth = nullptr) const {
        const auto flat = flat_shares(x, y);
        std::array<float, 3> result{};
        float sum = 0;
        for (std::size_t i = 0; i < 3; ++i) {
            result[i] = static_cast<float>(flat[i]) * over_w[i];
            sum += result[i];
        }
        for (float& share : result)
            share /= sum;
        if (depth != nullptr)
            *depth = sum;
        return result;
    }
    /// A sample on an edge belongs to one side only: the left and the top ones.
    [[nodiscard]] bool covers(const std::array<double, 3>& shares) const {
        for (std::size_t i = 0; i < 3; ++i) {
            const bool owns = edges[i][0] > 0 || (edges[i][0] == 0 && edges[i][1] > 0);
            if (shares[i] < 0 || (shares[i] == 0 && !owns))
                return false;
        }
        return true;
    }
};

class MeshPainter {
 public:
    MeshPainter(const ModelView& view, const ModelCamera& camera)
        : view_(view),
          camera_(camera),
          width_(view.width * samples_across),
          height_(view.height * samples_across) {}

    Status prepare(const ModelScene& scene, LevelCurve curve) {
        YL_TRY(draws_, draws_of(scene, camera_));
        for (std::size_t i = 0; i < scene.surfaces.size(); ++i) {
            YL_TRY(SurfaceShader shader,
                   SurfaceShader::create(scene, i, camera_, view_.show, curve));
            shaders_.push_back(std::move(shader));
        }
        for (std::uint32_t draw = 0; draw < draws_.size(); ++draw)
            for (std::size_t i = 0; i + 2 < draws_[draw].indices.size(); i += 3)
                add_triangle(draw, &draws_[draw].indices[i]);
        return {};
    }

    Result<Image> paint() const {
        YL_TRY(Image samples, Image::create(Format::rgba8_srgb, width_, height_));
        const ImageView target = samples.view();
        const RowCodec codec = row_codec(Format::rgba8_srgb, Transfer::srgb);
        const std::size_t bands = (height_ + band_rows - 1) / band_rows;
        parallel_each(bands, [&](std::size_t band) {
            const auto top = static_cast<std::uint32_t>(band * band_rows);
            const std::uint32_t rows = std::min(height_ - top, band_rows);
            std::vector<Rgba> colors(std::size_t{width_} * rows);
            paint_band(top, rows, colors);
            for (std::uint32_t row = 0; row < rows; ++row)
                codec.store(colors[std::size_t{row} * width_].data(), target.row(top + row).data(),
                            width_);
        });
        return average_samples(samples.view());
    }

 private:
    static constexpr std::uint32_t band_rows = 32;

    void add_triangle(std::uint32_t draw, const std::uint32_t* indices) {
        Triangle triangle{.corners = {indices[0], indices[1], indices[2]}, .draw = draw};
        std::array<double, 3> x{}, y{};
        for (std::size_t i = 0; i < 3; ++i) {
            const auto at = camera_.project(draws_[draw].part->vertices[indices[i]].position);
            x[i] = (static_cast<double>(at.x / at.w) + 1) / 2 * width_;
            y[i] = (static_cast<double>(at.y / at.w) + 1) / 2 * height_;
            triangle.over_w[i] = 1 / at.w;
        }
        const double area = (x[1] - x[0]) * (y[2] - y[0]) - (x[2] - x[0]) * (y[1] - y[0]);
        if (!std::isfinite(area) || area == 0)
            return;
        triangle.is_front = area < 0;  // y runs downwards
        for (std::size_t i = 0; i < 3; ++i) {
            const std::size_t a = (i + 1) % 3, b = (i + 2) % 3;
            triangle.edges[i] = {(y[a] - y[b]) / area, (x[b] - x[a]) / area,
                                 (x[a] * y[b] - x[b] * y[a]) / area};
        }
        const auto [x_least, x_most] = std::ranges::minmax(x);
        const auto [y_least, y_most] = std::ranges::minmax(y);
        triangle.left = sample_at(std::floor(x_least), width_);
        triangle.right = sample_at(std::ceil(x_most), width_);
        triangle.top = sample_at(std::floor(y_least), height_);
        triangle.bottom = sample_at(std::ceil(y_most), height_);
        triangles_.push_back(triangle);
    }

    static std::int32_t sample_at(double place, std::uint32_t size) {
        return static_cast<std::int32_t>(std::clamp(place, 0.0, static_cast<double>(size) - 1));
    }

    void paint_band(std::uint32_t top, std::uint32_t rows, std::vector<Rgba>& colors) const {
        for (std::uint32_t row = 0; row < rows; ++row) {
            const float share =
                (static_cast<float>(top + row) + 0.5F) / static_cast<float>(height_);
            std::fill_n(colors.begin() + static_cast<std::ptrdiff_t>(row) * width_, width_,
                        mix(view_.backdrop_top, view_.backdrop_bottom, share));
        }
        std::vector<float> nearest(colors.size(), 0);  // of 1 / w
        const auto first = static_cast<std::int32_t>(top);
        const std::int32_t last = first + static_cast<std::int32_t>(rows) - 1;
        for (const Triangle& triangle : triangles_)
            for (std::int32_t y = std::max(first, triangle.top);
                 y <= std::min(last, triangle.bottom); ++y)
                for (std::int32_t x = triangle.left; x <= triangle.right; ++x) {
                    const std::size_t at =
                        static_cast<std::size_t>(y - first) * width_ + static_cast<std::size_t>(x);
                    paint_sample(triangle, x, y, nearest[at], colors[at]);
                }
    }

    void paint_sample(const Triangle& triangle, std::int32_t x, std::int32_t y, float& nearest,
                      Rgba& color) const {
        const double middle_x = x + 0.5, middle_y = y + 0.5;
        if (!triangle.covers(triangle.flat_shares(middle_x, middle_y)))
            return;
        float depth = 0;
        const auto shares = triangle.shares(middle_x, middle_y, &depth);
        if (depth <= nearest)
            return;
        const MeshDraw& draw = draws_[triangle.draw];
        const auto shown =
            shaders_[draw.part->surface].color(fragment_of(triangle, *draw.part, shares, x, y));
        if (!shown)
            return;
        const float alpha = (*shown)[3];
        color = mix(color, *shown, alpha);
        if (draw.surface->alpha != AlphaUse::blend)
            nearest = depth;
    }

    static MeshFragment fragment_of(const Triangle& triangle, const Primitive& part,
                                    const std::array<float, 3>& shares, std::int32_t x,
                                    std::int32_t y) {
        MeshFragment fragment;
        fragment.is_front = triangle.is_front;
        fragment.has_coordinates = part.has_coordinates;
        for (std::size_t i = 0; i < 3; ++i) {
            const Vertex& corner = part.vertices[triangle.corners[i]];
            for (std::size_t c = 0; c < 3; ++c) {
                fragment.position[c] += shares[i] * corner.position[c];
                fragment.normal[c] += shares[i] * corner.normal[c];
            }
            for (std::size_t c = 0; c < 4; ++c) {
                fragment.tangent[c] += shares[i] * corner.tangent[c];
                fragment.color[c] += shares[i] * corner.color[c];
            }
        }
        fragment.tangent[3] = fragment.tangent[3] < 0 ? -1.0F : 1.0F;
        fragment.coordinates = coordinates_at(triangle, part, shares);
        // The derivatives that all four samples of a 2 x 2 quad share, over a whole pixel.
        const double left = (x & ~1) + 0.5, top = (y & ~1) + 0.5;
        const auto corner = coordinates_at(triangle, part, triangle.shares(left, top));
        const auto right = coordinates_at(triangle, part, triangle.shares(left + 1, top));
        const auto below = coordinates_at(triangle, part, triangle.shares(left, top + 1));
        constexpr auto pixel = static_cast<float>(samples_across);
        for (std::size_t set = 0; set < 2; ++set)
            fragment.footprints[set] = {
                pixel * (right[set][0] - corner[set][0]), pixel * (right[set][1] - corner[set][1]),
                pixel * (below[set][0] - corner[set][0]), pixel * (below[set][1] - corner[set][1])};
        return fragment;
    }

    static std::array<std::array<float, 2>, 2> coordinates_at(const Triangle& triangle,
                                                              const Primitive& part,
                                                              const std::array<float, 3>& shares) {
        std::array<std::array<float, 2>, 2> result{};
        for (std::size_t i = 0; i < 3; ++i)
            for (std::size_t set = 0; set < 2; ++set)
                for (std::size_t c = 0; c < 2; ++c)
                    result[set][c] +=
                        shares[i] * part.vertices[triangle.corners[i]].coordinates[set][c];
        return result;
    }

    const ModelView& view_;
    ModelCamera camera_;
    std::uint32_t width_ = 0, height_ = 0;
    std::vector<MeshDraw> draws_ = {};
    std::vector<SurfaceShader> shaders_ = {};
    std::vector<Triangle> triangles_ = {};
};

}  // namespace

Result<Image> draw_model(const ModelScene& scene, const ModelView& view, LevelCurve curve) try {
    MeshPainter painter(view, camera_of(scene, view));
    YL_CHECK(painter.prepare(scene, curve));
    return painter.paint();
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
