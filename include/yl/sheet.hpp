// Sheets: all levels, layers and faces of a texture in one labelled picture; labelled panels.
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

/// What a sheet shows, and how large. All members are optional.
struct SheetOptions {
    /// Draws each level as large as the top one, its texels as squares; otherwise one pixel per
    /// texel.
    bool enlarged = false;
    /// The longer side of the sheet in pixels; if necessary large levels are shown smaller until it
    /// fits.
    std::uint32_t max_side = 2048;
    std::uint32_t columns = 4;  ///< of enlarged levels
    float stops = 0;            ///< exposure for floating point; each stop doubles the light
    /// Shows each of these channels as gray; if empty, the colours as a GPU shows them.
    std::vector<SwizzleSource> channels = {};
};

/// Draws a sheet. Cubes appear as crosses, one per level and layer. If alpha is coverage, a
/// checkerboard shows through; otherwise colours are shown without it. Numbers that are not colours
/// are shown as if they were. Returns `rgba8-srgb`. Fails with `ErrorKind::usage` if the surfaces
/// do not fit into `max_side`, saying what they need.
[[nodiscard]] YL_API Result<Image> level_sheet(const Texture& texture, const std::string& heading,
                                               const SheetOptions& options = {});

struct LabelledPicture {
    Image picture = {};      ///< rgba8-srgb
    std::string title = {};  ///< UTF-8; wrapped to the width of the picture
    std::string note = {};   ///< smaller, below the title; may be empty
};

/// Arranges pictures in rows of `columns` under a heading. Fails with `ErrorKind::usage` if there
/// are none or one is not `rgba8-srgb`.
[[nodiscard]] YL_API Result<Image> arrange_panels(const std::vector<LabelledPicture>& pictures,
                                                  std::uint32_t columns,
                                                  const std::string& heading);

/// A colour and its meaning.
struct ColorKey {
    std::array<float, 4> color = {};  ///< linear
    std::string label = {};           ///< UTF-8
};

/// Adds a colour key below a picture.
/// Fails with `ErrorKind::usage` if the picture is not `rgba8-srgb`.
[[nodiscard]] YL_API Result<Image> with_keys(ConstImageView picture,
                                             const std::vector<ColorKey>& keys);

/// Draws the difference of each pixel as a colour, from dark (none) through green and yellow to
/// white (`full` or more codes, or stops), with a legend below. Returns `rgba8-srgb`. Fails as
/// `measure_difference` does.
[[nodiscard]] YL_API Result<Image> draw_difference(ConstImageView a, ConstImageView b, double full,
                                                   const DifferenceOptions& options = {});

}  // namespace yl
