#include "block/astc/footprint_tables.hpp"

#include <algorithm>

namespace yl::astc {
namespace {

constexpr unsigned small_footprint = 31;  // texels: below, coordinates count twice

std::uint32_t hashed(std::uint32_t bits) {
    bits ^= bits >> 15;
    bits -= bits << 17;
    bits += bits << 7;
    bits += bits << 4;
    bits ^= bits >> 5;
    bits += bits << 16;
    bits ^= bits >> 7;
    bits ^= bits >> 3;
    bits ^= bits << 6;
    bits ^= bits >> 17;
    return bits;
}

/// The four planes whose highest one at a texel is its partition.
class PartitionPlanes {
 public:
    PartitionPlanes(unsigned count, unsigned seed) : count_(count) {
        const unsigned number = seed + (count - 1) * partition_seeds;
        const std::uint32_t bits = hashed(number);
        unsigned across = (number & 2U) != 0 ? 4 : 5, down = count == 3 ? 6 : 5;
        if ((number & 1U) == 0)
            std::swap(across, down);
        for (unsigned plane = 0; plane < 4; ++plane) {
            across_[plane] = slope(bits >> 8 * plane & 15U, across);
            down_[plane] = slope(bits >> (8 * plane + 4) & 15U, down);
            start_[plane] = bits >> (14 - 4 * plane);
        }
    }

    [[nodiscard]] std::uint8_t at(unsigned x, unsigned y) const {
        std::array<unsigned, 4> heights{};
        for (unsigned plane = 0; plane < count_; ++plane)
            heights[plane] = (across_[plane] * x + down_[plane] * y + start_[plane]) & 0x3FU;
        return static_cast<std::uint8_t>(std::ranges::max_element(heights) - heights.begin());
    }

 private:
    static unsigned slope(unsigned nibble, unsigned shift) { return nibble * nibble >> shift; }

    unsigned count_;
    std::array<unsigned, 4> across_{}, down_{}, start_{};
};

/// Where a texel lies among `weights` on one axis of `texels`, in sixteenths.
unsigned place_on_axis(unsigned texel, unsigned texels, unsigned weights) {
    const unsigned scale = (1024 + texels / 2) / (texels - 1);
    return (scale * texel * (weights - 1) + 32) >> 6;
}

Infill infill_at(unsigned x, unsigned y, Footprint footprint, unsigned width, unsigned height) {
    const unsigned across = place_on_axis(x, footprint.width, width);
    const unsigned down = place_on_axis(y, footprint.height, height);
    const unsigned right = across & 15U, below = down & 15U;
    const unsigned last = (right * below + 8) >> 4;
    const auto byte = [](unsigned value) { return static_cast<std::uint8_t>(value); };
    return {byte((across >> 4) + (down >> 4) * width),
            {byte(16 - right - below + last), byte(right - last), byte(below - last), byte(last)}};
}

}  // namespace

FootprintTables::FootprintTables(Footprint footprint) : footprint_(footprint) {
    partitions_.reserve(std::size_t{3} * partition_seeds * footprint.texels());
    const unsigned scale = footprint.texels() < small_footprint ? 2 : 1;
    for (unsigned count = 2; count <= 4; ++count)
        for (unsigned seed = 0; seed < partition_seeds; ++seed) {
            const PartitionPlanes planes(count, seed);
            for (unsigned y = 0; y < footprint.height; ++y)
                for (unsigned x = 0; x < footprint.width; ++x)
                    partitions_.push_back(planes.at(scale * x, scale * y));
        }
    for (unsigned height = 2; height <= footprint.height; ++height)
        for (unsigned width = 2; width <= footprint.width; ++width)
            for (unsigned y = 0; y < footprint.height; ++y)
                for (unsigned x = 0; x < footprint.width; ++x)
                    infills_.push_back(infill_at(x, y, footprint, width, height));
}

}  // namespace yl::astc
