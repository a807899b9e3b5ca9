// What depends on the footprint alone: which partition each texel is in, and how weights of texels
// come from those of a grid (Khronos Data Format Specification 1.3, sections 23.18 and 23.21).
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "block/astc/block_mode.hpp"

namespace yl::astc {

inline constexpr unsigned partition_seeds = 1024;
inline constexpr unsigned most_grid_side = 12;

/// Of a texel: the upper left of the four weights around it, and their shares in sixteenths.
struct Infill {
    std::uint8_t first;
    std::array<std::uint8_t, 4> shares;  ///< of the first, the right, the lower and the last
};

class FootprintTables {
 public:
    explicit FootprintTables(Footprint footprint);

    /// Of each texel, for 2 to 4 partitions.
    [[nodiscard]] const std::uint8_t* partitions(unsigned count, unsigned seed) const {
        return &partitions_[((count - 2) * partition_seeds + seed) * footprint_.texels()];
    }
    /// Of each texel, for a grid that fits.
    [[nodiscard]] const Infill* infill(unsigned width, unsigned height) const {
        return &infills_[((height - 2) * (footprint_.width - 1U) + width - 2) *
                         footprint_.texels()];
    }
    [[nodiscard]] Footprint footprint() const { return footprint_; }

 private:
    Footprint footprint_;
    std::vector<std::uint8_t> partitions_;
    std::vector<Infill> infills_;
};

/// Made when a footprint is first asked for.
template <unsigned width, unsigned height>
[[nodiscard]] const FootprintTables& footprint_tables() {
    static const FootprintTables tables({width, height});
    return tables;
}

}  // namespace yl::astc
