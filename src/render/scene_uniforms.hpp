// What shaders are told of a scene: vectors of four floats, in the order of shaders/*.frag.
#pragma once

#include <algorithm>
#include <vector>

#include <yl/scene.hpp>
#include <yl/texture.hpp>

namespace yl {

[[nodiscard]] inline std::vector<float> numbers_of(const Scene& scene, AlphaMode alpha) {
    std::vector<float> numbers;
    numbers.reserve(64);
    const float* m = scene.texture_from_pixel.data();
    for (int row = 0; row < 3; ++row)
        numbers.insert(numbers.end(), {m[3 * row], m[3 * row + 1], m[3 * row + 2], 0});
    const float bounded = scene.is_bounded ? 1.0F : 0.0F;
    const float mode = scene.cutout_threshold ? 2.0F : alpha == AlphaMode::premultiplied ? 1.0F : 0;
    const auto& top = scene.backdrop_top;
    const auto& bottom = scene.backdrop_bottom;
    numbers.insert(numbers.end(), {scene.min_q, bounded, scene.u_end, scene.v_end});
    numbers.insert(numbers.end(), {top[0], top[1], top[2], static_cast<float>(scene.height)});
    numbers.insert(numbers.end(), {bottom[0], bottom[1], bottom[2], mode});
    const PartCoordinates part = scene.part.value_or(PartCoordinates{});
    const auto& to_atlas = part.atlas_from_picture;
    const float reads = !scene.part ? 0.0F : part.repeats ? 2.0F : 1.0F;
    numbers.insert(numbers.end(), {scene.cutout_threshold.value_or(0.0F), reads, 0, 0});
    numbers.insert(numbers.end(), {to_atlas[0], to_atlas[1], to_atlas[2], part.last_level_size[0]});
    numbers.insert(numbers.end(), {to_atlas[3], to_atlas[4], to_atlas[5], part.last_level_size[1]});
    numbers.insert(numbers.end(), part.box.begin(), part.box.end());
    return numbers;
}

[[nodiscard]] inline std::vector<float> numbers_of(const CubeScene& scene) {
    std::vector<float> numbers;
    numbers.reserve(64);
    const float* m = scene.direction_from_pixel.data();
    for (int row = 0; row < 3; ++row)
        numbers.insert(numbers.end(), {m[3 * row], m[3 * row + 1], m[3 * row + 2], 0});
    const auto middle = scene.ball_middle.value_or(std::array<float, 3>{});
    numbers.insert(numbers.end(),
                   {middle[0], middle[1], middle[2], scene.ball_middle ? 1.0F : 0.0F});
    numbers.insert(numbers.end(), {scene.sky_level.value_or(-1), scene.ball_level.value_or(-1),
                                   scene.exposure, scene.matt_ball ? 1.0F : 0.0F});
    const SphericalHarmonics harmonics = scene.matt_ball.value_or(SphericalHarmonics{});
    for (std::size_t i = 0; i < 9; ++i) {
        for (std::size_t c = 0; c < 3; ++c)
            numbers.push_back(static_cast<float>(cosine_harmonics[i] * harmonics.radiance[i][c]));
        numbers.push_back(0);
    }
    return numbers;
}

}  // namespace yl
