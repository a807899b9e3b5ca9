// Passing errors up: `YL_TRY(auto x, f())` binds the value or returns the error.
#pragma once

#include <yl/result.hpp>

#define YL_JOIN_(a, b) a##b
#define YL_JOIN(a, b) YL_JOIN_(a, b)

#define YL_TRY(target, expression)                                             \
    auto YL_JOIN(attempt_, __LINE__) = (expression);                           \
    if (!YL_JOIN(attempt_, __LINE__))                                          \
        return tl::unexpected(std::move(YL_JOIN(attempt_, __LINE__)).error()); \
    target = std::move(*YL_JOIN(attempt_, __LINE__))

#define YL_CHECK(expression)                   \
    if (auto attempt = (expression); !attempt) \
    return tl::unexpected(std::move(attempt).error())
