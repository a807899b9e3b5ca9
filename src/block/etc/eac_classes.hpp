// Classes of blocks by the range of their values, in steps of 8 bits: one for each range up to 24,
// and above that four to an octave.
#pragma once

#include <array>
#include <cmath>
#include <cstddef>

namespace yl::etc {

inline constexpr int single_ranges = 24;
inline constexpr std::size_t range_classes = 39;
inline constexpr std::size_t most_starts = 32;

[[nodiscard]] inline int range_class(double range) {
    if (range <= single_ranges)
        return static_cast<int>(std::lround(range));
    return single_ranges + static_cast<int>(std::lround(4 * std::log2(range / single_ranges)));
}

/// The range that stands for a class.
[[nodiscard]] inline double range_of_class(int number) {
    return number <= single_ranges ? number
                                   : single_ranges * std::exp2((number - single_ranges) / 4.0);
}

/// Where classes begin above the single ranges, and the ranges of all; as vectors take them.
inline const auto class_thresholds = [] {
    std::array<float, range_classes - 1 - single_ranges> thresholds{};
    for (std::size_t i = 0; i < thresholds.size(); ++i)
        thresholds[i] =
            static_cast<float>(single_ranges * std::exp2((static_cast<double>(i) + 0.5) / 4));
    return thresholds;
}();
inline const auto class_ranges = [] {
    std::array<float, range_classes> ranges{};
    for (std::size_t i = 0; i < ranges.size(); ++i)
        ranges[i] = static_cast<float>(range_of_class(static_cast<int>(i)));
    return ranges;
}();

}  // namespace yl::etc
