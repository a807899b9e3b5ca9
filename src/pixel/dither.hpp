// Rounding error spread as fine noise.
#pragma once

#include <cstdint>

#include <yl/format.hpp>

namespace yl {

/// Replaces each value by one that the format stores exactly: one of its two neighbours, chosen by
/// a pattern of the place so that the mean is kept. Formats that are not integers stay as they are.
///
/// The pattern is the additive recurrence by the plastic number (Roberts, "The Unreasonable
/// Effectiveness of Quasirandom Sequences", 2018), another phase for each channel.
void dither_row(float* rgba, std::size_t count, std::uint32_t y, Format format, Transfer transfer);

/// That pattern: 0 .. 1 for each place.
[[nodiscard]] double dither_pattern(std::size_t x, std::uint32_t y, std::size_t channel = 0);

}  // namespace yl
