// Which levels a level of detail reads, and how they are filtered and mixed.
#pragma once

#include <algorithm>
#include <cmath>
#include <optional>

#include <yl/sampler_rules.hpp>
#include <yl/texture_sampler.hpp>

namespace yl {

struct LevelChoice {
    std::uint32_t level = 0;
    Filter filter = Filter::nearest;
    float share_of_next = 0;  ///< of the level after; 0 when it is not read
};

/// `level_of_detail` is biased and clamped already.
[[nodiscard]] inline LevelChoice choose_level(const Sampler& sampler, LevelRange range,
                                              std::uint32_t levels, float level_of_detail) {
    if (level_of_detail <= 0)
        return {range.first, sampler.mag};
    if (sampler.mip == MipFilter::none)
        return {range.first, sampler.min};
    const std::uint32_t last = std::min(range.last(), levels - 1);
    const float most = static_cast<float>(last - range.first);
    if (sampler.mip == MipFilter::nearest) {
        const float nearest = std::min(std::ceil(level_of_detail + 0.5F) - 1.0F, most);
        return {range.first + static_cast<std::uint32_t>(nearest), sampler.min};
    }
    const float finer = std::floor(std::min(level_of_detail, most));
    const std::uint32_t level = range.first + static_cast<std::uint32_t>(finer);
    return {level, sampler.min, level == last ? 0.0F : level_of_detail - finer};
}

[[nodiscard]] inline float clamp_level_of_detail(const Sampler& sampler, float level_of_detail) {
    if (std::isnan(level_of_detail))
        level_of_detail = 0;
    return std::clamp(level_of_detail + sampler.level_bias, sampler.min_level, sampler.max_level);
}

/// Of a footprint's longest side, in texels of the base level.
[[nodiscard]] inline float level_of_footprint(float size, LevelCurve curve) {
    const float square = size * size;
    const bool ordinary = square > 0 && std::isfinite(square);
    if (curve == LevelCurve::exact || !ordinary)
        return std::log2(size);
    int exponent = 0;
    const float mantissa = std::frexp(square, &exponent);  // 0.5 .. 1
    return 0.5F * (static_cast<float>(exponent - 2) + 2 * mantissa);
}

[[nodiscard]] inline Rgba blended(const Rgba& a, const Rgba& b, float share_of_b) {
    Rgba result;
    for (std::size_t c = 0; c < 4; ++c)
        result[c] = a[c] + (b[c] - a[c]) * share_of_b;
    return result;
}

/// How many samples anisotropic filtering takes along the longer side.
[[nodiscard]] inline float samples_along(float longer, float shorter, float max_anisotropy) {
    const float ratio = shorter > 0
                            ? std::min(std::ceil(longer / shorter), std::floor(max_anisotropy))
                            : std::floor(max_anisotropy);
    return std::isfinite(ratio) ? std::max(ratio, 1.0F) : 1.0F;
}

}  // namespace yl
