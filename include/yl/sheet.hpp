// All levels, layers and faces of a texture in one labelled picture.
#pragma once

#include <vector>
#include <yl/swizzle.hpp>
#include <yl/texture.hpp>

namespace yl {

struct SheetOptions {
    /// Each level as large as the top one, its texels as squares; otherwise one pixel a texel.
    bool enlarged = false;
    /// Pixels of the longer side of the whole sheet: where it would be larger, large levels are
    /// shown smaller, until it fits.
    std::uint32_t max_side = 2048;
    std::uint32_t columns = 4;  ///< of enlarged levels
    float stops = 0;            ///< of exposure, for floating point: each doubles the light
    /// Each of these alone, as gray; when empty, the colours as the GPU shows them.
    std::vector<SwizzleSource> channels = {};
};

/// Cubes are shown as crosses, one for each level and layer. Where alpha is coverage, a
/// checkerboard shows through; where it is a number of its own, colours are shown without it. Other
/// roles' numbers are shown as if they were colours. Gives `rgba8-srgb`. Fails with
/// `ErrorKind::usage` when so many surfaces do not fit into `max_side`, and says what they need.
[[nodiscard]] Result<Image> level_sheet(const Texture& texture, const std::string& heading,
                                        const SheetOptions& options = {});

}  // namespace yl
