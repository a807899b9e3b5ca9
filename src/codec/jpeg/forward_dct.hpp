// Blocks of samples to quantised coefficients (ITU-T T.81, annex A.3.3 and A.3.4).
#pragma once

#include <array>
#include <cstdint>
#include <span>

#include "codec/jpeg/frame.hpp"

namespace yl::jpeg {

/// In coded order.
using CodedBlock = std::array<std::int16_t, block_size>;
using Steps = std::array<std::uint16_t, block_size>;

/// Samples around 0, row by row.
[[nodiscard]] CodedBlock coded_block(std::span<const float, block_size> samples,
                                     const Steps& steps);

}  // namespace yl::jpeg
