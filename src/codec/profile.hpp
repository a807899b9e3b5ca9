// What embedded ICC profiles say (ICC.1:2022).
#pragma once

#include <yl/picture.hpp>
#include "base/bytes.hpp"

namespace yl {

/// Whether a profile describes sRGB: its primaries, adapted to D50, and its curves, within what no
/// code of 8 bits shows. A gray profile needs the curve alone.
[[nodiscard]] bool is_srgb_profile(ByteSpan profile);

/// Keeps a profile with the picture. One of sRGB declares that; any other is left for
/// `settle_profile`.
void take_profile(PictureInfo& info, std::string name, std::vector<std::byte> profile);

/// The profile's own description; empty when it has none that is understood.
[[nodiscard]] std::string profile_description(ByteSpan profile);

}  // namespace yl
