#include "resample/weights.hpp"

#include <algorithm>

namespace yl {

AxisWeights box_weights(std::uint32_t source, std::uint32_t target) {
    AxisWeights axis;
    // A span of source / target texels touches one texel more than its length, rounded up, unless
    // its ends fall on texel borders.
    axis.taps = source % target == 0 ? source / target : source / target + 2;
    axis.taps = std::min(axis.taps, source);
    axis.first.resize(target);
    axis.weights.resize(std::size_t{target} * axis.taps);
    for (std::uint32_t i = 0; i < target; ++i) {
        // In units of 1 / target of a source texel all borders are whole numbers.
        const std::uint64_t begin = std::uint64_t{i} * source;
        const std::uint64_t end = begin + source;
        const auto first = std::min(static_cast<std::uint32_t>(begin / target), source - axis.taps);
        axis.first[i] = first;
        for (std::uint32_t tap = 0; tap < axis.taps; ++tap) {
            const std::uint64_t texel_begin = std::uint64_t{first + tap} * target;
            const std::uint64_t from = std::max(begin, texel_begin);
            const std::uint64_t to = std::min(end, texel_begin + target);
            if (to > from)
                axis.weights[std::size_t{i} * axis.taps + tap] =
                    static_cast<float>(static_cast<double>(to - from) / source);
        }
    }
    return axis;
}

}  // namespace yl
