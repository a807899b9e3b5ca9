// How often each value occurs in a texture's first level.
#pragma once

#include <yl/texture.hpp>

#include "report/page/json.hpp"

namespace yl::report {

/// 256 bins for each channel that a shader sees: of 0 .. 1, of -1 .. 1 for signed numbers, and for
/// light of stops, with those that hold none apart.
[[nodiscard]] Json histogram_of(const Texture& plain, bool has_alpha);

}  // namespace yl::report
