// How many megapixels lint measures in a second, all processors together.
#include <benchmark/benchmark.h>
#include <tbb/parallel_for.h>

#include "subjects.hpp"

namespace {

constexpr std::uint32_t side = 1024;
constexpr std::size_t at_once = 8;

yl::Texture chain(yl::Role role) {
    yl::Picture picture;
    picture.image = bench::photograph(side);
    yl::BakeOptions options;
    options.role = role;
    return std::move(yl::bake(picture, options)->texture);
}

/// Textures with all their levels, several at once, as `ylat lint FOLDER` has them.
void lint_textures(benchmark::State& state, const yl::Texture& texture) {
    for (auto _ : state)
        tbb::parallel_for(std::size_t{0}, at_once, [&](std::size_t) {
            benchmark::DoNotOptimize(yl::lint(texture)->found.size());
        });
    state.counters["MP/s"] =
        benchmark::Counter(static_cast<double>(state.iterations()) * at_once * side * side / 1e6,
                           benchmark::Counter::kIsRate);
}

}  // namespace

int main(int argc, char** argv) {
    const yl::Texture color = chain(yl::Role::color), data = chain(yl::Role::data);
    benchmark::RegisterBenchmark("lint/color",
                                 [&](benchmark::State& state) { lint_textures(state, color); })
        ->UseRealTime()
        ->Unit(benchmark::kMillisecond);
    benchmark::RegisterBenchmark("lint/data",
                                 [&](benchmark::State& state) { lint_textures(state, data); })
        ->UseRealTime()
        ->Unit(benchmark::kMillisecond);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
}
