// What lossless WebP does to pixels before it codes them (RFC 9649, section 4).
#pragma once

#include <optional>

#include "codec/webp/transforms.hpp"

namespace yl::webp {

/// Red and blue without green.
void subtract_green(std::span<std::uint32_t> pixels);

/// Pixels without what neighbours let expect of them: for each block the prediction that leaves
/// what seems to take the fewest bits.
[[nodiscard]] Transform take_predictions(std::span<std::uint32_t> pixels, std::uint32_t width,
                                         unsigned bits);

/// Red without what green lets expect, and blue without what green and red do, block by block.
[[nodiscard]] Transform take_color_shares(std::span<std::uint32_t> pixels, std::uint32_t width,
                                          unsigned bits);

/// Indices in the place of colours, if there are no more than 256; the pixels become fewer.
[[nodiscard]] std::optional<Transform> take_palette(std::vector<std::uint32_t>& pixels,
                                                    std::uint32_t width);

}  // namespace yl::webp
