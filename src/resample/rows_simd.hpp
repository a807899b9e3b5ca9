// The arithmetic of working rows, RGBA floats, in vectors; each with its plain twin. Sums are added
// up in the same order everywhere, so that the bytes of a chain do not depend on the processor.
#pragma once

#include <array>
#include <span>

#include "resample/weights.hpp"

namespace yl {

/// Added to alpha when it weighs colour: too little to be seen, but enough to keep the colour where
/// nothing but transparent texels meet. Added to 1 it leaves 1, so that opaque texels weigh
/// exactly 1.
inline constexpr float min_weight = 1.0F / (1 << 25);

/// Below this much alpha, `min_weight` shows in it and is taken off again.
inline constexpr float little_weight = 1.0F / (1 << 10);

/// Where kernels with negative lobes make less alpha than nothing, colour is not divided by it.
inline constexpr float min_divisor = min_weight / 2;

/// Adds `min_weight` to alpha and multiplies colour by it; and back, into `plain`, which may be
/// the same.
void weigh_by_alpha(float* rgba, std::size_t count);
void undo_weighing(const float* rgba, float* plain, std::size_t count);
void weigh_by_alpha_plain(float* rgba, std::size_t count);
void undo_weighing_plain(const float* rgba, float* plain, std::size_t count);

/// Every target pixel of a row; `source` points to the pixel at place 0, with as many valid ones
/// before and behind the row as the weights reach over its ends.
void blend_across(const AxisWeights& weights, const float* source, float* target);
void blend_across_plain(const AxisWeights& weights, const float* source, float* target);

/// The weighted sum of rows of `count` floats.
void blend_rows(std::span<const float* const> rows, const float* weights, float* sum,
                std::size_t count);
void blend_rows_plain(std::span<const float* const> rows, const float* weights, float* sum,
                      std::size_t count);

/// The sum of `taps`, an even number of rows of `count` floats, weighted the same from both ends:
/// tap i and the i-th from the end by `weights[i]`.
void blend_symmetric(std::span<const float* const> taps, const float* weights, float* sum,
                     std::size_t count);
void blend_symmetric_plain(std::span<const float* const> taps, const float* weights, float* sum,
                           std::size_t count, std::size_t begin = 0);

/// The least and the greatest of each pair of floats.
void extremes_of_pairs(const float* a, const float* b, float* min, float* max, std::size_t count);
void extremes_of_pairs_plain(const float* a, const float* b, float* min, float* max,
                             std::size_t count);

/// Each float of `row` between the least and the greatest of what lies above and below it.
void limit_to_pairs(float* row, const std::array<const float*, 2>& min,
                    const std::array<const float*, 2>& max, std::size_t count);
void limit_to_pairs_plain(float* row, const std::array<const float*, 2>& min,
                          const std::array<const float*, 2>& max, std::size_t count);

/// Pixels 0, 2, 4 ... of a row of `width`, an even number, and pixels 1, 3, 5 ...
void split_pixels(const float* row, float* even, float* odd, std::size_t width);

}  // namespace yl
