// Images of a fuzzer's bytes.
#pragma once

#include <utility>
#include <yl/image.hpp>

#include "input.hpp"

namespace fuzz {

inline constexpr yl::Format image_formats[] = {yl::Format::rgba8_srgb, yl::Format::rgba8_unorm,
                                               yl::Format::r8_unorm, yl::Format::rgba16_float,
                                               yl::Format::rgba32_float};

inline yl::Image image_of(Input& input, yl::Format format, std::uint32_t width,
                          std::uint32_t height) {
    auto image = yl::Image::create(format, width, height);
    check(image.has_value());
    const auto view = image->view();
    input.spread_over({view.data, view.row_stride * view.row_count()});
    return std::move(*image);
}

}  // namespace fuzz
