// The eight modes of BC7 (Khronos Data Format Specification 1.3, section 20.1).
//
// A block of mode m, from its lowest bit on:
//   m zeros and a one
//   partition, rotation of channels, selection of indices
//   red of all endpoints (first and second of each subset), green, blue, alpha
//   an extra lowest bit of each endpoint, or of each subset's both
//   indices of all texels; then the second ones
#pragma once

#include <array>
#include <cstdint>

namespace yl::bc {

struct Bc7Mode {
    std::uint8_t subsets;
    std::uint8_t partition_bits;
    std::uint8_t rotation_bits;
    std::uint8_t selection_bits;
    std::uint8_t color_bits;
    std::uint8_t alpha_bits;
    std::uint8_t endpoint_extra;  ///< 1: each endpoint has an extra bit
    std::uint8_t subset_extra;    ///< 1: each subset has one
    std::uint8_t index_bits;
    std::uint8_t second_index_bits;
};

inline constexpr std::array<Bc7Mode, 8> bc7_modes = {{{3, 4, 0, 0, 4, 0, 1, 0, 3, 0},
                                                      {2, 6, 0, 0, 6, 0, 0, 1, 3, 0},
                                                      {3, 6, 0, 0, 5, 0, 0, 0, 2, 0},
                                                      {2, 6, 0, 0, 7, 0, 1, 0, 2, 0},
                                                      {1, 0, 2, 1, 5, 6, 0, 0, 2, 3},
                                                      {1, 0, 2, 0, 7, 8, 0, 0, 2, 2},
                                                      {1, 0, 0, 0, 7, 7, 1, 0, 4, 0},
                                                      {2, 6, 0, 0, 5, 5, 1, 0, 2, 0}}};

}  // namespace yl::bc
