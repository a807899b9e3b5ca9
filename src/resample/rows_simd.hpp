// The arithmetic of working rows, RGBA floats, in vectors; each with its plain twin. Sums are added
// up in the same order everywhere, so that the bytes of a chain do not depend on the processor.
#pragma once

#include <span>

#include "resample/weights.hpp"

namespace yl {

/// Added to alpha when it weighs colour: too little to be seen, but enough to keep the colour where
/// nothing but transparent texels meet. Added to 1 it leaves 1, so that opaque texels weigh
/// exactly 1.
inline constexpr float least_weight = 1.0F / (1 << 25);

/// Below this much alpha, `least_weight` shows in it and is taken off again.
inline constexpr float little_weight = 1.0F / (1 << 10);

/// Where kernels with negative lobes make less alpha than nothing, colour is not divided by it.
inline constexpr float least_divisor = least_weight / 2;

/// Adds `least_weight` to alpha and multiplies colour by it; and back, into `plain`, which may be
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

}  // namespace yl
