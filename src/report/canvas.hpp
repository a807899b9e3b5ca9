// Drawing rectangles, pictures and labels into a picture.
#pragma once

#include <array>
#include <cstdint>
#include <string_view>

#include <yl/image.hpp>
#include "report/lettering.hpp"

namespace yl {

using Color8 = std::array<std::uint8_t, 3>;  ///< sRGB

/// What labelled pictures have in common.
inline constexpr Color8 paper = {0x23, 0x26, 0x24};
inline constexpr Color8 heading_ink = {0xF4, 0xD3, 0x5E};
inline constexpr Color8 title_ink = {0xF2, 0xEF, 0xE4};
inline constexpr std::uint32_t page_margin = 16;

/// An `rgba8-srgb` picture to draw on. Everything is clipped at its edges.
class Canvas {
 public:
    [[nodiscard]] static Result<Canvas> create(std::uint32_t width, std::uint32_t height,
                                               Color8 background);

    void fill(std::uint32_t x, std::uint32_t y, std::uint32_t width, std::uint32_t height,
              Color8 color);
    void place(std::uint32_t x, std::uint32_t y, ConstImageView picture);
    /// `y` is the top of the line.
    void text(std::uint32_t x, std::uint32_t y, std::string_view text, TextSize size, Color8 color);

    [[nodiscard]] Image take() && { return std::move(picture_); }

 private:
    void blend_pixel(std::int64_t x, std::int64_t y, Color8 color, int coverage);

    Image picture_;
};

}  // namespace yl
