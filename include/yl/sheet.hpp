// All levels, layers and faces of a texture in one labelled picture.
#pragma once

#include <yl/texture.hpp>

namespace yl {

struct SheetOptions {
    /// Each level as large as the top one, its texels as squares; otherwise one pixel a texel.
    bool enlarged = false;
    /// Pixels of the longer side above which levels are shown made smaller.
    std::uint32_t greatest_side = 1024;
    std::uint32_t columns = 4;  ///< of enlarged levels
    float stops = 0;            ///< of exposure, for floating point: each doubles the light
};

/// Cubes are shown as crosses, one for each level and layer. Colours as the GPU shows them, over
/// dark gray where they are transparent; other roles' numbers as if they were colours. Gives
/// `rgba8-srgb`. Fails with `ErrorKind::usage` when the picture would be larger than any.
[[nodiscard]] Result<Image> level_sheet(const Texture& texture, const std::string& heading,
                                        const SheetOptions& options = {});

}  // namespace yl
