// Detail given back to an image that was made smaller.
#pragma once

#include "resample/working_format.hpp"

namespace yl {

/// Adds `amount` times the difference between each texel and the mean of the nine around it.
void sharpen(ImageView image, std::uint32_t level, float amount, const Edges& edges,
             const WorkingFormat& format);

}  // namespace yl
