#include "cube/smaller.hpp"

#include <algorithm>
#include <cmath>

#include "base/parallel.hpp"
#include "resample/rows_simd.hpp"

namespace yl {
namespace {

constexpr std::size_t rows_together = 8;

/// The part of the sphere that a texel covers, times a constant; good enough for weights.
float weight_at(double x, double y, std::uint32_t size) {
    const double a = 2 * (x + 0.5) / size - 1, b = 2 * (y + 0.5) / size - 1;
    const double square = a * a + b * b + 1;
    return static_cast<float>(1 / (square * std::sqrt(square)));
}

/// Rows of a face, wider and higher than it by what a kernel needs, each pixel times its weight on
/// the sphere.
class WideRows {
 public:
    WideRows(const LightCube& light, std::size_t face, std::uint32_t margin)
        : light_(light), face_(face), margin_(margin) {}

    [[nodiscard]] std::size_t floats() const {
        return (std::size_t{light_.size()} + 2 * std::size_t{margin_}) * 4;
    }

    /// `y` from -margin; the row begins with pixel -margin.
    void fill(std::int64_t y, float* row) const {
        const std::int64_t size = light_.size();
        for (std::int64_t x = -std::int64_t{margin_}; x < size + margin_; ++x, row += 4) {
            const bool is_inside = x >= 0 && x < size && y >= 0 && y < size;
            const FacePoint place =
                middle_of(face_, static_cast<double>(x), static_cast<double>(y), light_.size());
            Light light{};
            if (is_inside)
                std::copy_n(light_.texel(face_, x, y), 4, light.begin());
            else
                light = light_.sample(direction_at(place));
            const float weight =
                weight_at(static_cast<double>(x), static_cast<double>(y), light_.size());
            for (std::size_t c = 0; c < 4; ++c)
                row[c] = light[c] * weight;
        }
    }

 private:
    const LightCube& light_;
    std::size_t face_;
    std::uint32_t margin_;
};

/// The same for the weights alone: what the sums have to be divided by.
class WeightRows {
 public:
    WeightRows(std::uint32_t size, std::uint32_t margin) : size_(size), margin_(margin) {}
    [[nodiscard]] std::size_t floats() const {
        return (std::size_t{size_} + 2 * std::size_t{margin_}) * 4;
    }
    void fill(std::int64_t y, float* row) const {
        for (std::int64_t x = -std::int64_t{margin_}; x < std::int64_t{size_} + margin_;
             ++x, row += 4)
            std::fill_n(row, 4, weight_at(static_cast<double>(x), static_cast<double>(y), size_));
    }

 private:
    std::uint32_t size_;
    std::uint32_t margin_;
};

/// Rows [begin, end) of the smaller face; calls `take(y, row)` with each.
template <class Rows, class Take>
void reduce(const Rows& source, const AxisWeights& axis, std::uint32_t margin, std::uint32_t begin,
            std::uint32_t end, const Take& take) {
    const std::size_t row_floats = std::size_t{axis.size()} * 4;
    std::vector<float> wide(source.floats()), ring(axis.taps * row_floats), result(row_floats);
    const auto ring_row = [&](std::int64_t y) {
        const std::int64_t taps = axis.taps;
        return ring.data() + static_cast<std::size_t>((y % taps + taps) % taps) * row_floats;
    };
    std::int64_t next = axis.first[begin];
    std::vector<const float*> rows(axis.taps);
    for (std::uint32_t y = begin; y < end; ++y) {
        const std::int64_t first = axis.first[y];
        for (next = std::max(next, first); next < first + axis.taps; ++next) {
            source.fill(next, wide.data());
            blend_across(axis, wide.data() + std::size_t{margin} * 4, ring_row(next));
        }
        for (std::uint32_t tap = 0; tap < axis.taps; ++tap)
            rows[tap] = ring_row(first + tap);
        blend_rows(rows, axis.of(y), result.data(), row_floats);
        take(y, result.data());
    }
}

LightCube mean_cube(const LightCube& light) {
    std::array<double, 4> sum{};
    double weights = 0;
    for (std::size_t face = 0; face < 6; ++face)
        for (std::uint32_t y = 0; y < light.size(); ++y)
            for (std::uint32_t x = 0; x < light.size(); ++x) {
                const double weight = texel_solid_angle(x, y, light.size());
                weights += weight;
                for (std::size_t c = 0; c < 4; ++c)
                    sum[c] += weight * static_cast<double>(light.texel(face, x, y)[c]);
            }
    LightCube mean(1);
    for (std::size_t face = 0; face < 6; ++face)
        for (std::size_t c = 0; c < 4; ++c)
            mean.texel(face, 0, 0)[c] = static_cast<float>(sum[c] / weights);
    mean.fill_frames();
    return mean;
}

/// Two texels a face stand an eighth of a circle apart: no plane is near enough to the sphere
/// there, so that each gathers by the square of the cosine around its direction.
LightCube gathered_pairs(const LightCube& light) {
    const auto unit = [](const FacePoint& point) {
        const Direction d = direction_at(point);
        const double length = std::sqrt(d[0] * d[0] + d[1] * d[1] + d[2] * d[2]);
        return Direction{d[0] / length, d[1] / length, d[2] / length};
    };
    LightCube result(2);
    for (std::uint32_t target = 0; target < 24; ++target) {
        const Direction middle = unit(middle_of(target / 4, target % 2, target / 2 % 2, 2));
        std::array<double, 4> sum{};
        double weights = 0;
        for (std::size_t face = 0; face < 6; ++face)
            for (std::uint32_t y = 0; y < light.size(); ++y)
                for (std::uint32_t x = 0; x < light.size(); ++x) {
                    const Direction d = unit(middle_of(face, x, y, light.size()));
                    const double cosine =
                        std::max(middle[0] * d[0] + middle[1] * d[1] + middle[2] * d[2], 0.0);
                    const double weight = cosine * cosine * texel_solid_angle(x, y, light.size());
                    weights += weight;
                    for (std::size_t c = 0; c < 4; ++c)
                        sum[c] += weight * static_cast<double>(light.texel(face, x, y)[c]);
                }
        for (std::size_t c = 0; c < 4; ++c)
            result.texel(target / 4, target % 2, target / 2 % 2)[c] =
                static_cast<float>(sum[c] / weights);
    }
    result.fill_frames();
    return result;
}

}  // namespace

LightCube smaller_light_cube(const LightCube& light, const Kernel& kernel) {
    const std::uint32_t size = std::max(light.size() / 2, 1U);
    if (size == 1)
        return mean_cube(light);
    if (size == 2)
        return gathered_pairs(light);
    // Repeating only means that the taps go on over the ends, where the margin is.
    const AxisWeights axis = axis_weights(kernel, Edge::repeat, light.size(), size);
    const std::uint32_t margin = std::max(axis.before, axis.behind);
    std::vector<float> weights(std::size_t{size} * size);
    reduce(WeightRows(light.size(), margin), axis, margin, 0, size,
           [&](std::uint32_t y, const float* row) {
               for (std::uint32_t x = 0; x < size; ++x)
                   weights[std::size_t{y} * size + x] = row[std::size_t{x} * 4];
           });
    LightCube result(size);
    const std::size_t pieces = (size + rows_together - 1) / rows_together;
    parallel_each(6 * pieces, [&](std::size_t index) {
        const std::size_t face = index / pieces;
        const auto begin = static_cast<std::uint32_t>(index % pieces * rows_together);
        const std::uint32_t end = std::min(begin + static_cast<std::uint32_t>(rows_together), size);
        reduce(WideRows(light, face, margin), axis, margin, begin, end,
               [&](std::uint32_t y, const float* row) {
                   float* target = result.texel(face, 0, y);
                   for (std::uint32_t i = 0; i < 4 * size; ++i)
                       target[i] = row[i] / weights[std::size_t{y} * size + i / 4];
               });
    });
    result.fill_frames();
    return result;
}

}  // namespace yl
