// The loops of JPEG that take the time, eight bits a sample. Each gives the same bytes as its plain
// twin, on every processor.
#pragma once

#include "codec/jpeg/color.hpp"
#include "codec/jpeg/inverse_dct.hpp"

namespace yl::jpeg {

/// Twin of `inverse_dct` for 8 bits; a row of `count` blocks, whose samples lie side by side.
void inverse_dct_simd(const Block* blocks, std::size_t count, const Scales& scales,
                      std::uint8_t* samples, std::size_t stride);

/// Twin of `double_row`.
void double_row_simd(const std::uint16_t* samples, std::uint32_t count, int scale,
                     std::uint8_t* row);

/// Twin of `convert_row`.
void convert_row_simd(const ColorPlan& plan, const std::uint8_t* const* rows, std::uint32_t width,
                      std::uint8_t* pixels);

}  // namespace yl::jpeg
