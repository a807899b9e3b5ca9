// Parallel loops over rows or blocks, in the caller's own thread arena.
//
// With YL_ONE_THREAD, as in WebAssembly, there is neither oneTBB nor anything to lock.
#pragma once

#include <cstddef>

#ifndef YL_ONE_THREAD
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>

#include <algorithm>
#include <mutex>
#endif

namespace yl {

#ifdef YL_ONE_THREAD

template <class Body>
void parallel_ranges(std::size_t count, std::size_t, const Body& body) {
    if (count > 0)
        body(std::size_t{0}, count);
}

[[nodiscard]] inline int max_threads() {
    return 1;
}

struct Mutex {
    void lock() {}
    void unlock() {}
};

#else

/// Calls `body(begin, end)` for pieces of [0, count) of at least `grain` each, at the same time.
template <class Body>
void parallel_ranges(std::size_t count, std::size_t grain, const Body& body) {
    tbb::parallel_for(tbb::blocked_range<std::size_t>(0, count, grain),
                      [&](const auto& range) { body(range.begin(), range.end()); });
}

/// Of the caller's arena.
[[nodiscard]] inline int max_threads() {
    return std::max(tbb::this_task_arena::max_concurrency(), 1);
}

using Mutex = std::mutex;

#endif

/// Holds a mutex for its scope.
class Locked {
 public:
    explicit Locked(Mutex& mutex) : mutex_(mutex) { mutex_.lock(); }
    Locked(const Locked&) = delete;
    Locked& operator=(const Locked&) = delete;
    ~Locked() { mutex_.unlock(); }

 private:
    Mutex& mutex_;
};

/// Calls `body(index)` for each index of [0, count), at the same time.
template <class Body>
void parallel_each(std::size_t count, const Body& body) {
    parallel_ranges(count, 1, [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i)
            body(i);
    });
}

}  // namespace yl
