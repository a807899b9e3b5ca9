// The weights with which one axis of an image is made smaller.
#pragma once

#include <cstdint>
#include <vector>

namespace yl {

/// For each target texel the source texels that it is made of: `taps` of them from `first` on.
struct AxisWeights {
    std::uint32_t taps = 0;
    std::vector<std::uint32_t> first;  ///< one entry a target texel
    std::vector<float> weights;        ///< `taps` entries a target texel, whose sum is 1

    [[nodiscard]] std::uint32_t size() const { return static_cast<std::uint32_t>(first.size()); }
    [[nodiscard]] const float* of(std::uint32_t target) const {
        return weights.data() + std::size_t{target} * taps;
    }
};

/// Area-exact box: target texel i covers the source from i * source / target to
/// (i + 1) * source / target, and each source texel weighs as much as is covered of it.
/// `target` lies between 1 and `source`.
[[nodiscard]] AxisWeights box_weights(std::uint32_t source, std::uint32_t target);

}  // namespace yl
