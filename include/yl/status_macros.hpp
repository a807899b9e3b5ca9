// Passing errors up, in functions that return a `Result` or a `Status` themselves.
//
//     yl::Result<yl::Texture> leaf() {
//         YL_TRY(const yl::Picture picture, yl::read_picture("leaf.png"));
//         YL_TRY(yl::Baked baked, yl::bake(picture));
//         YL_CHECK(yl::write_texture("leaf.ktx2", baked.texture));
//         return std::move(baked.texture);
//     }
#pragma once

#include <yl/result.hpp>

#define YL_JOIN_(a, b) a##b
#define YL_JOIN(a, b) YL_JOIN_(a, b)

/// Binds the value or returns the error.
#define YL_TRY(target, expression)                                               \
    auto YL_JOIN(yl_status_, __LINE__) = (expression);                           \
    if (!YL_JOIN(yl_status_, __LINE__))                                          \
        return tl::unexpected(std::move(YL_JOIN(yl_status_, __LINE__)).error()); \
    target = std::move(*YL_JOIN(yl_status_, __LINE__))

/// Returns the error of a `Status`. Safe as the body of an `if` without braces.
#define YL_CHECK(expression)                                     \
    for (auto yl_status = (expression); !yl_status.has_value();) \
    return tl::unexpected(std::move(yl_status).error())
