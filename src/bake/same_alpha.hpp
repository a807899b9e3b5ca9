// One way to read alpha for all pictures of a texture.
#pragma once

#include <deque>
#include <span>
#include <string_view>
#include <vector>

#include <yl/finding.hpp>
#include <yl/picture.hpp>

namespace yl {

/// Pictures of which no two with transparent pixels read alpha in different ways.
struct SameAlpha {
    std::vector<const Picture*> pictures = {};  ///< those of the caller, or premultiplied copies
    AlphaMode alpha = AlphaMode::straight;      ///< of all of them
    std::deque<Picture> copies = {};
    std::vector<std::size_t> copied = {};  ///< the numbers of these pictures, from 0
};

/// Premultiplies the straight pictures if others are premultiplied already: that can always be done,
/// and its inverse loses colours. Pictures whose alpha is 1 everywhere stay as they are.
[[nodiscard]] Result<SameAlpha> with_same_alpha(std::span<const Picture* const> pictures);

/// What is said of a copy.
[[nodiscard]] Finding premultiplied_copy(std::string_view name);

}  // namespace yl
