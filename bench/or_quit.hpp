// Benchmarks end at the first error.
#pragma once

#include <fmt/format.h>

#include <cstdlib>
#include <yl/result.hpp>

inline void quit(const yl::Error& error) {
    fmt::print(stderr, "{}\n", error.sentence());
    std::exit(1);
}

template <class T>
T or_quit(yl::Result<T> result) {
    if (!result)
        quit(result.error());
    return std::move(*result);
}
