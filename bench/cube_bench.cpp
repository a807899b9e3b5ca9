// Cube maps: a panorama to faces, the finding of an order, chains and prefiltering.
#include <tbb/task_arena.h>

#include <cmath>
#include <numbers>
#include <yl/yl.hpp>

#include "against_copy.hpp"

namespace {

/// Smooth light with some detail, and a sun.
std::array<float, 4> light_at(double x, double y, double z) {
    const double wave = 0.5 + 0.2 * std::sin(9 * x + 5 * y) * std::cos(7 * z);
    const double sun = x * 0.6 + y * 0.1 + z * 0.79 > 0.999 ? 80 : 0;
    return {static_cast<float>(wave + sun), static_cast<float>(wave * 0.9 + sun * 0.6),
            static_cast<float>(0.6 + 0.3 * y + sun * 0.3), 1};
}

yl::Picture panorama(std::uint32_t width) {
    yl::Picture picture;
    picture.transfer = yl::Transfer::linear;
    picture.image = *yl::Image::create(yl::Format::rgba32_float, width, width / 2);
    for (std::uint32_t y = 0; y < width / 2; ++y) {
        auto* pixel = reinterpret_cast<std::array<float, 4>*>(picture.image.view().row(y).data());
        for (std::uint32_t x = 0; x < width; ++x) {
            const auto d = *yl::direction_of_place(yl::CubeLayout::panorama,
                                                   {(x + 0.5) / width, (y + 0.5) / (width / 2)});
            pixel[x] = light_at(d[0], d[1], d[2]);
        }
    }
    return picture;
}

yl::Texture cube(std::uint32_t size) {
    return *yl::cube_of_picture(panorama(4 * size), {.face_size = size});
}

void panorama_to_faces(benchmark::State& state, int threads) {
    const yl::Picture picture = panorama(4096);
    tbb::task_arena arena(threads);
    bench::run_against_copy(state, std::size_t{6} * 1024 * 1024 * 16, [&] {
        arena.execute(
            [&] { benchmark::DoNotOptimize(yl::cube_of_picture(picture, {.face_size = 1024})); });
    });
}

void specular(benchmark::State& state) {
    const yl::Texture source = cube(256);
    bench::run_against_copy(state, source.level(0).size(), [&] {
        benchmark::DoNotOptimize(yl::prefilter_specular(source, {.levels = 8, .samples = 1024}));
    });
}

void order(benchmark::State& state) {
    const yl::Texture source = cube(1024);
    std::array<yl::ConstImageView, 6> faces;
    for (std::uint32_t i = 0; i < 6; ++i)
        faces[(i + 2) % 6] = source.image(0, 0, i);
    bench::run_against_copy(state, source.level(0).size(), [&] {
        benchmark::DoNotOptimize(yl::find_face_order(faces, yl::Transfer::linear));
    });
}

void chain(benchmark::State& state) {
    const yl::Texture source = cube(1024);
    yl::TextureShape shape = source.shape();
    shape.levels = 11;
    yl::Texture texture = *yl::Texture::create(shape);
    std::copy(source.level(0).begin(), source.level(0).end(), texture.level(0).begin());
    bench::run_against_copy(state, source.level(0).size(),
                            [&] { benchmark::DoNotOptimize(yl::build_cube_mips(texture)); });
}

}  // namespace

BENCHMARK_CAPTURE(panorama_to_faces, 4096_to_1024_one_thread, 1)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(panorama_to_faces, 4096_to_1024_two_threads, 2)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(specular)
    ->Name("specular/256_8_levels_1024_samples")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK(order)->Name("order/six_1024_faces")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK(chain)->Name("chain/1024_rgba32_float")->Unit(benchmark::kMillisecond)->UseRealTime();

BENCHMARK_MAIN();
