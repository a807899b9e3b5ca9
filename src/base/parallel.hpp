// Parallel loops over rows or blocks, in the caller's own thread arena.
#pragma once

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <cstddef>

namespace yl {

/// Calls `body(begin, end)` for pieces of [0, count) of at least `grain` each, at the same time.
template <class Body>
void parallel_ranges(std::size_t count, std::size_t grain, const Body& body) {
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, count, grain),
                      [&](const auto& range) { body(range.begin(), range.end()); });
}

/// Calls `body(index)` for each index of [0, count), at the same time.
template <class Body>
void parallel_each(std::size_t count, const Body& body) {
    parallel_ranges(count, 1, [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i)
            body(i);
    });
}

}  // namespace yl
