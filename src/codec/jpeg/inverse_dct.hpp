// From the coefficients of a block to its samples.
#pragma once

#include <array>

#include "codec/jpeg/frame.hpp"

namespace yl::jpeg {

/// Coefficients row by row, as coded: not multiplied by their steps.
using Block = std::array<std::int16_t, block_size>;

/// The steps of a quantization table, row by row.
struct Scales {
    std::array<int, block_size> exact{};
    /// The same, cut off at the greatest number of 16 bits: no sound coefficient has such a step.
    alignas(16) std::array<std::int16_t, block_size> narrow{};
};

[[nodiscard]] Scales scales_of(const std::array<std::uint16_t, block_size>& steps);

/// The inverse discrete cosine transform (ITU-T T.81, A.3.3), in integers, rounded to the nearest
/// and clamped to the range of `bits`. Rows of samples are `stride` apart.
template <class Sample>
void inverse_dct(const Block& block, const Scales& scales, int bits, Sample* samples,
                 std::size_t stride);

}  // namespace yl::jpeg
