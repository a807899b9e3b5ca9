// The channels of plain pixels rearranged: made four, or red and blue exchanged.
#pragma once

#include <yl/convert.hpp>
#include <yl/image.hpp>

namespace yl {

/// The format with red, green, blue and alpha whose channels are like those of `format`: 8, 16 or
/// 32 bits, integers or floating point. Colour encoded as `transfer` keeps that where there is such
/// a format.
[[nodiscard]] Format rgba_format(Format format, Transfer transfer);

/// A row of `count` pixels of `format`, which has one to four plain channels. The rows may overlap
/// when the wide one begins no earlier.
void widen_row(Format format, const std::byte* narrow, std::byte* wide, std::size_t count);

/// `count` pixels of three or four bytes, the first and the third exchanged; the other way round,
/// too. The rows may be the same.
void exchange_red_and_blue(const std::byte* source, std::byte* target, std::size_t count,
                           std::uint32_t channels);

/// As many of the row's last pixels as fill whole vectors, 8-bit RGB to RGBA; gives the number of
/// pixels left at its beginning. `widen_row` is its plain twin, and does the rest.
std::size_t widen_rgb8_simd(const std::byte* rgb, std::byte* rgba, std::size_t count,
                            std::uint8_t opaque);

/// As many of the first pixels as fill whole vectors; gives their number. Its plain twin is
/// `exchange_red_and_blue`, which does the rest.
std::size_t exchange_red_and_blue_simd(const std::byte* source, std::byte* target,
                                       std::size_t count, std::uint32_t channels);

/// Makes every pixel four channels wide: one and two are gray, which is spread, and alpha; an alpha
/// that is not there is 1. Happens in place when the image's memory is large enough already.
[[nodiscard]] Status widen_to_rgba(Image& image, Transfer transfer);

}  // namespace yl
