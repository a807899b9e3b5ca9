// Checks on results: the error's sentence is shown when one was not expected.
#pragma once

#include <doctest/doctest.h>

#include <yl/result.hpp>
#include <yl/texture.hpp>

namespace support {

/// The value, or a failed test that shows the error.
template <class T>
T must(yl::Result<T> result) {
    if (!result)
        FAIL(result.error().sentence());
    return std::move(*result);
}

inline void must(const yl::Status& status) {
    if (!status)
        FAIL(status.error().sentence());
}

/// The error of something that has to fail.
template <class T>
yl::Error must_fail(const yl::Result<T>& result) {
    if (result)
        FAIL("this was expected to fail");
    return result.error();
}

/// Pixels of a temporary, until the end of the expression that it stands in.
inline yl::ConstImageView view_of(const yl::Image& image) {
    return image.view();
}
inline yl::ConstImageView surface_of(const yl::Texture& texture, std::uint32_t level,
                                     std::uint32_t layer = 0, std::uint32_t face = 0) {
    return texture.image(level, layer, face);
}
inline std::span<const std::byte> level_of(const yl::Texture& texture, std::uint32_t level) {
    return texture.level(level);
}

inline bool contains(std::string_view text, std::string_view part) {
    return text.find(part) != std::string_view::npos;
}

}  // namespace support
