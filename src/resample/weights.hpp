// The weights with which one axis of an image is made smaller or larger.
#pragma once

#include <cstdint>
#include <vector>

#include <yl/resize.hpp>

namespace yl {

/// For each target texel the source texels that it is made of: `taps` of them from `first` on. Only
/// with `Edge::repeat` do these reach over the ends; there, the source goes on for ever.
struct AxisWeights {
    std::uint32_t source = 0;
    std::uint32_t taps = 0;
    std::vector<std::int32_t> first = {};  ///< one entry a target texel, never falling
    std::vector<float> weights = {};       ///< `taps` entries a target texel, whose sum is 1
    std::uint32_t before = 0;              ///< how many texels the taps reach over each end
    std::uint32_t behind = 0;
    bool is_halving = false;  ///< texel i is made of 2 i and 2 i + 1, always by the same weights
    /// Where neighbours have the same weights, and their taps begin two texels apart.
    std::uint32_t alike_begin = 0, alike_end = 0;

    [[nodiscard]] std::uint32_t size() const { return static_cast<std::uint32_t>(first.size()); }
    [[nodiscard]] const float* of(std::uint32_t target) const {
        return weights.data() + std::size_t{target} * taps;
    }
};

/// Each texel's own phase is computed, whatever the sizes: nothing is rounded to a table. Beyond
/// the edges the texels that stand there lend their weight to those that they repeat.
[[nodiscard]] AxisWeights axis_weights(const Kernel& kernel, Edge edge, std::uint32_t source,
                                       std::uint32_t target);

/// The texel that stands at a place beyond the ends of an axis.
[[nodiscard]] std::int64_t folded_place(std::int64_t place, Edge edge, std::int64_t size);

/// The source texels that a target texel covers, wholly or in part: [begin, end).
struct CoveredTexels {
    std::uint32_t begin = 0, end = 0;
};
[[nodiscard]] CoveredTexels covered_texels(std::uint32_t i, std::uint32_t source,
                                           std::uint32_t target);

}  // namespace yl
