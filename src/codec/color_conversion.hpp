// Colours of other spaces converted to sRGB, by Little CMS.
#pragma once

#include <array>
#include <string>
#include <vector>

#include <yl/picture.hpp>
#include "base/bytes.hpp"

namespace yl {

/// Colours as primaries and a curve describe them.
struct StatedColors {
    /// CIE 1931 x and y of white, red, green and blue.
    std::array<double, 8> chromaticities = {0.3127, 0.3290, 0.64, 0.33, 0.30, 0.60, 0.15, 0.06};
    enum class Curve : std::uint8_t { srgb, bt709, gamma, table } curve = Curve::srgb;
    double gamma = 2.2;  ///< light = code^gamma
    /// The light of each code, 65535 being all of it; of red, green and blue, or one for all.
    std::vector<std::vector<std::uint16_t>> tables = {};
};

/// Whether primaries and white are those of sRGB, as exactly as files say it.
[[nodiscard]] bool has_srgb_primaries(const std::array<double, 8>& chromaticities);

/// Converts the picture's colours to sRGB in place, relative to the media's white and with black
/// point compensation; alpha stays. Fails with `ErrorKind::unsupported` for profiles that are not
/// understood, or of colours that are neither RGB nor gray.
[[nodiscard]] Status convert_by_profile(Picture& picture, ByteSpan profile);
[[nodiscard]] Status convert_by_colors(Picture& picture, const StatedColors& colors);

/// Applies, keeps or ignores the ICC profile that the picture came with, as `options` ask, and
/// remarks what was done.
[[nodiscard]] Status settle_profile(Picture& picture, const ReadOptions& options);

/// Does with colours that a file states as `said` what `options` ask for, and says so.
[[nodiscard]] Status settle_stated(Picture& picture, const StatedColors& colors,
                                   const std::string& said, const ReadOptions& options);

/// Whether a profile is one of inks, and is to be applied.
[[nodiscard]] bool applies_ink_profile(ByteSpan profile, const ReadOptions& options);

/// Cyan, magenta, yellow and black of 8 or 16 bits, the more the darker, to sRGB of the same depth,
/// relative to the paper's white and with black point compensation.
[[nodiscard]] Status convert_inks(ConstImageView inks, ByteSpan profile, ImageView light);

/// Says in the picture's info how its inks became colours: by the profile, or without one.
void describe_inks(PictureInfo& info, ByteSpan profile, bool by_profile);

/// Whether colours are converted at all.
[[nodiscard]] bool converts_colors(const Picture& picture, const ReadOptions& options);

/// Says in the picture's info that it was converted.
void note_conversion(PictureInfo& info, const std::string& from);

}  // namespace yl
