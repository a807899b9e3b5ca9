// All levels, layers and faces of a texture in one labelled picture; pictures side by side.
//
//     yl::Image sheet = yl::or_exit(yl::level_sheet(texture, "leaf.ktx2"));
//     yl::or_exit(yl::write_picture("levels.png", sheet.view()));
#pragma once

#include <array>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/convert.hpp>
#include <yl/image.hpp>
#include <yl/measure.hpp>
#include <yl/texture.hpp>

namespace yl {

/// What the sheet shows, and how large. All parts may be left out.
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
[[nodiscard]] YL_API Result<Image> level_sheet(const Texture& texture, const std::string& heading,
                                               const SheetOptions& options = {});

struct LabelledPicture {
    Image picture = {};      ///< rgba8-srgb
    std::string title = {};  ///< UTF-8; broken into lines where it is wider than the picture
    std::string note = {};   ///< smaller, below the title; may be empty
};

/// Lays the pictures out in rows of `columns`, under a heading. Fails with `ErrorKind::usage`
/// when there is none or one is not `rgba8-srgb`.
[[nodiscard]] YL_API Result<Image> arrange_panels(const std::vector<LabelledPicture>& pictures,
                                                  std::uint32_t columns,
                                                  const std::string& heading);

/// A colour and what it stands for.
struct ColorKey {
    std::array<float, 4> color = {};  ///< linear
    std::string label = {};           ///< UTF-8
};

/// The picture with a strip of keys below it, in as many lines as they need.
/// Fails with `ErrorKind::usage` when the picture is not `rgba8-srgb`.
[[nodiscard]] YL_API Result<Image> with_keys(ConstImageView picture,
                                             const std::vector<ColorKey>& keys);

/// The difference of each pixel as a colour, from dark (none) by green and yellow to white
/// (`full` or more codes, or stops), with a legend below. Gives `rgba8-srgb`.
/// Fails as `measure_difference` does.
[[nodiscard]] YL_API Result<Image> draw_difference(ConstImageView a, ConstImageView b, double full,
                                                   const DifferenceOptions& options = {});

}  // namespace yl
