// What a picture's pixels mean, by all chunks together.
#pragma once

#include "codec/png/expand.hpp"
#include "codec/png/parse.hpp"

namespace yl::png {

/// Everything about the picture but its pixels, whose format is given back.
[[nodiscard]] Format begin_picture(Parsed& parsed, const RowExpander& expander,
                                   const ReadOptions& options, Picture& picture);

/// Does to the pixels what chunks cHRM, gAMA and cICP say; profiles come later, and in other files as
/// well.
[[nodiscard]] Status settle_colors(const Parsed& parsed, Picture& picture,
                                   const ReadOptions& options);

}  // namespace yl::png
