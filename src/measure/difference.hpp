// Two images as floats, pixel by pixel.
#pragma once

#include <algorithm>
#include <cmath>
#include <vector>

#include <yl/measure.hpp>

namespace yl {

/// Codes (0 .. 1, or -1 .. 1) or light of both images, as far as they have channels.
struct ComparedImages {
    std::uint32_t width = 0, height = 0;
    std::uint32_t channels = 0;
    bool is_light = false;
    Transfer transfer = Transfer::linear;  ///< of the codes
    bool weighs_by_alpha = false;
    Image a = {}, b = {};  ///< rgba32-float

    [[nodiscard]] const float* row_a(std::uint32_t y) const;
    [[nodiscard]] const float* row_b(std::uint32_t y) const;

    /// How much the colour of a pixel counts, given what it is in both.
    [[nodiscard]] double color_weight(const float* pixel_a, const float* pixel_b) const {
        const float alpha = std::clamp(std::max(pixel_a[3], pixel_b[3]), 0.0F, 1.0F);
        return weighs_by_alpha ? static_cast<double>(alpha) : 1;
    }
};

[[nodiscard]] Result<ComparedImages> compared(ConstImageView a, ConstImageView b,
                                              const DifferenceOptions& options);

/// Light below this is taken as this, so that black is not infinitely far away.
inline constexpr double min_light = 1.0 / 16384;

[[nodiscard]] inline double stops_between(float a, float b) {
    const auto light = [](float value) {
        return std::log2(std::max(static_cast<double>(value), min_light));
    };
    return std::abs(light(a) - light(b));
}

/// How far one pixel is off: in codes of 8 bits, or in stops.
[[nodiscard]] double pixel_difference(const ComparedImages& images, const float* a, const float* b);

}  // namespace yl
