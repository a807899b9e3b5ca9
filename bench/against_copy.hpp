// Benchmarks whose unit is the memory copy of the same bytes, made in the same run.
#pragma once

#include <benchmark/benchmark.h>

#include <algorithm>
#include <chrono>
#include <cstring>
#include <vector>

namespace bench {

inline double seconds_since(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

/// The median time of copying so many bytes, between two blocks that have been touched before.
inline double copy_seconds(std::size_t bytes) {
    const std::vector<char> source(bytes, 1);
    std::vector<char> target(bytes, 2);
    std::vector<double> times;
    for (int i = 0; i < 7; ++i) {
        const auto start = std::chrono::steady_clock::now();
        std::memcpy(target.data(), source.data(), bytes);
        benchmark::DoNotOptimize(target.data());
        benchmark::ClobberMemory();
        times.push_back(seconds_since(start));
    }
    std::nth_element(times.begin(), times.begin() + 3, times.end());
    return times[3];
}

/// Runs `work` for each iteration; reports bytes a second, and how many copies of the same bytes
/// the median iteration took.
template <class Work>
void run_against_copy(benchmark::State& state, std::size_t bytes, const Work& work) {
    std::vector<double> times;
    for (auto _ : state) {
        const auto start = std::chrono::steady_clock::now();
        work();
        times.push_back(seconds_since(start));
    }
    std::nth_element(times.begin(), times.begin() + static_cast<std::ptrdiff_t>(times.size() / 2),
                     times.end());
    state.SetBytesProcessed(static_cast<std::int64_t>(bytes) *
                            static_cast<std::int64_t>(state.iterations()));
    state.counters["copies"] = times[times.size() / 2] / copy_seconds(bytes);
}

}  // namespace bench
