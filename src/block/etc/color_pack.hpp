// What an encoder of ETC2 settles for a block, and the bits that it becomes.
#pragma once

#include <array>
#include <cstdint>

namespace yl::etc {

enum class ColorForm : std::uint8_t { individual, differential, t, h, planar };

struct SettledBlock {
    ColorForm form = ColorForm::individual;
    /// Codes as the form stores them: two colours, or the three of a plane.
    std::array<std::array<std::uint32_t, 3>, 3> codes = {};
    std::array<std::uint32_t, 2> rows = {};  ///< of intensities
    std::uint32_t distance = 0;
    bool is_flipped = false;
    bool has_holes = false;
    std::uint32_t indices = 0;  ///< as the block stores them
};

[[nodiscard]] std::uint64_t packed_block(const SettledBlock& block);

}  // namespace yl::etc
