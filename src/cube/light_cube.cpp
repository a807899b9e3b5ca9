#include "cube/light_cube.hpp"

#include <algorithm>
#include <cmath>

#include "base/parallel.hpp"

namespace yl {

CubeTexel texel_at(const FacePoint& point, std::uint32_t size) {
    const auto place = [&](double coordinate) {
        return static_cast<std::uint32_t>(
            std::clamp(std::floor(coordinate * size), 0.0, static_cast<double>(size - 1)));
    };
    return {static_cast<std::size_t>(point.face), place(point.s), place(point.t)};
}

FacePoint middle_of(std::size_t face, double x, double y, std::uint32_t size) {
    return {static_cast<CubeFace>(face), (x + 0.5) / size, (y + 0.5) / size};
}

CubeTexel texel_beyond_edge(CubeFace face, std::int64_t x, std::int64_t y, std::uint32_t size) {
    // From the middle of the texel that would lie there, less than half a texel leads to the middle
    // of the one that does.
    return texel_at(
        face_point(direction_at(middle_of(static_cast<std::size_t>(face), static_cast<double>(x),
                                          static_cast<double>(y), size))),
        size);
}

WorkingFormat working_format_of(const Texture& texture) {
    return WorkingFormat::of(texture.shape().format, texture.metadata.transfer,
                             texture.metadata.alpha);
}

LightCube LightCube::of(const Texture& cube, std::uint32_t level, std::uint32_t layer,
                        const WorkingFormat& format) {
    const std::uint32_t size = cube.shape().width_at(level);
    LightCube light(size);
    parallel_each(std::size_t{6} * size, [&](std::size_t row) {
        const auto face = static_cast<std::uint32_t>(row / size);
        const auto y = static_cast<std::uint32_t>(row % size);
        format.load(cube.image(level, layer, face).row(y).data(), light.texel(face, 0, y), size);
    });
    light.fill_frames();
    return light;
}

void LightCube::store(Texture& cube, std::uint32_t level, std::uint32_t layer,
                      const WorkingFormat& format) const {
    parallel_each(std::size_t{6} * size_, [&](std::size_t row) {
        const auto face = static_cast<std::uint32_t>(row / size_);
        const auto y = static_cast<std::uint32_t>(row % size_);
        std::vector<float> scratch(std::size_t{size_} * 4);
        format.store(texel(face, 0, y), scratch.data(),
                     cube.image(level, layer, face).row(y).data(), size_, {y, level});
    });
}

void LightCube::fill_frames() {
    const std::int64_t end = size_;
    for (std::size_t face = 0; face < 6; ++face) {
        const auto copy = [&](std::int64_t x, std::int64_t y) {
            const CubeTexel from = texel_beyond_edge(static_cast<CubeFace>(face), x, y, size_);
            std::copy_n(texel(from.face, from.x, from.y), 4, texel(face, x, y));
        };
        for (std::int64_t i = 0; i < end; ++i) {
            copy(i, -1);
            copy(i, end);
            copy(-1, i);
            copy(end, i);
        }
        for (const std::int64_t y : {std::int64_t{-1}, end})
            for (const std::int64_t x : {std::int64_t{-1}, end}) {
                const std::int64_t inner_x = std::clamp<std::int64_t>(x, 0, end - 1);
                const std::int64_t inner_y = std::clamp<std::int64_t>(y, 0, end - 1);
                for (int c = 0; c < 4; ++c)
                    texel(face, x, y)[c] =
                        (texel(face, inner_x, inner_y)[c] + texel(face, x, inner_y)[c] +
                         texel(face, inner_x, y)[c]) /
                        3;
            }
    }
}

Light LightCube::sample(const FacePoint& point) const {
    const double x = std::clamp(point.s, 0.0, 1.0) * size_ - 0.5;
    const double y = std::clamp(point.t, 0.0, 1.0) * size_ - 0.5;
    const double left = std::floor(x), top = std::floor(y);
    const auto across = static_cast<float>(x - left), down = static_cast<float>(y - top);
    const float* a = texel(static_cast<std::size_t>(point.face), static_cast<std::int64_t>(left),
                           static_cast<std::int64_t>(top));
    const float* b = a + (std::size_t{size_} + 2) * 4;
    Light light;
    for (std::size_t c = 0; c < 4; ++c) {
        const float upper = a[c] + (a[c + 4] - a[c]) * across;
        const float lower = b[c] + (b[c + 4] - b[c]) * across;
        light[c] = upper + (lower - upper) * down;
    }
    return light;
}

}  // namespace yl
