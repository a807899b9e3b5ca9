// The numbers of lossy WebP's pixels: VP8 key frames (RFC 6386).
#pragma once

#include <cstdint>

namespace yl::webp {

/// By kind of block, band of coefficients, what was before, and branch of the tree of tokens.
struct CoefficientProbabilities {
    std::uint8_t of[4][8][3][11];
};

extern const CoefficientProbabilities default_probabilities;  ///< section 13.5
extern const CoefficientProbabilities update_probabilities;   ///< that they change: section 13.4

/// Of the tree of modes, by the modes above and to the left: section 11.5.
extern const std::uint8_t block_mode_probabilities[10][10][9];

/// Quantiser steps by index: section 14.1.
extern const std::uint16_t dc_steps[128];
extern const std::uint16_t ac_steps[128];

}  // namespace yl::webp
