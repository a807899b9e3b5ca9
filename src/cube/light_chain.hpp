// A chain of light cubes, looked up by the hundred million.
#pragma once

#include <cmath>

#include "cube/light_cube.hpp"
#include "pixel/pixel_math.hpp"

namespace yl {

/// A place on a face, in single precision.
struct QuickPoint {
    std::size_t face = 0;
    float s = 0, t = 0;  ///< 0 to 1
};

/// As `face_point`; the direction need not be of length 1.
[[nodiscard]] inline QuickPoint quick_point(float x, float y, float z) {
    const float ax = std::abs(x), ay = std::abs(y), az = std::abs(z);
    if (az >= ax && az >= ay) {
        const float scale = 0.5F / az;
        return {z < 0 ? 5U : 4U, 0.5F + (z < 0 ? -x : x) * scale, 0.5F - y * scale};
    }
    if (ay >= ax) {
        const float scale = 0.5F / ay;
        return {y < 0 ? 3U : 2U, 0.5F + x * scale, 0.5F + (y < 0 ? -z : z) * scale};
    }
    const float scale = 0.5F / ax;
    return {x < 0 ? 1U : 0U, 0.5F + (x < 0 ? z : -z) * scale, 0.5F - y * scale};
}

class LightChain {
 public:
    /// Level 0 of the texture, and all smaller ones down to one texel, filtered without seams.
    LightChain(const Texture& cube, std::uint32_t layer);
    explicit LightChain(LightCube top);

    [[nodiscard]] std::size_t level_count() const { return levels_.size(); }
    [[nodiscard]] const LightCube& level(std::size_t level) const { return levels_[level]; }

    /// The largest level with faces no larger than `size`, or else the largest of all.
    [[nodiscard]] const LightCube& for_size(std::uint32_t size) const;

    /// One level, ready to be read many times.
    struct Reader {
        const float* texels = nullptr;  ///< of face 0, its frame's first
        std::size_t row_floats = 0, face_floats = 0;
        float size = 0;

        /// Adds the bilinear light of a place, times a weight.
        void add(const QuickPoint& point, float weight, Pixel& sum) const {
            const float x = point.s * size + 0.5F, y = point.t * size + 0.5F;  // from the frame on
            const auto left = static_cast<std::int32_t>(x), top = static_cast<std::int32_t>(y);
            const float across = x - static_cast<float>(left), down = y - static_cast<float>(top);
            const float* a = texels + point.face * face_floats +
                             static_cast<std::size_t>(top) * row_floats +
                             static_cast<std::size_t>(left) * 4;
            const float* b = a + row_floats;
            const float lower = weight * down, upper = weight - lower;
            const float wb = upper * across, wa = upper - wb;
            const float wd = lower * across, wc = lower - wd;
            sum += (wa * load_pixel(a) + wb * load_pixel(a + 4)) +
                   (wc * load_pixel(b) + wd * load_pixel(b + 4));
        }
    };
    [[nodiscard]] Reader reader(std::size_t level) const {
        const LightCube& light = levels_[level];
        const std::size_t side = light.size() + std::size_t{2};
        return {light.texel(0, -1, -1), side * 4, side * side * 4,
                static_cast<float>(light.size())};
    }

 private:
    std::vector<LightCube> levels_;
};

/// Whether a texture can be lit by: a cube, of a format that can be read texel by texel.
[[nodiscard]] Status check_light_source(const Texture& cube);

}  // namespace yl
