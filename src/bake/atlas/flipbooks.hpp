// Names that end in numbers are the frames of an animation.
#pragma once

#include <yl/atlas.hpp>

namespace yl::atlas {

/// By name; the frames by their numbers. At least two pictures make one.
[[nodiscard]] std::vector<Flipbook> flipbooks_of(std::span<const AtlasPicture> pictures);

}  // namespace yl::atlas
