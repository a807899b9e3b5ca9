// What EXIF data (in TIFF form, EXIF 2.32) say that matters for pixels.
#pragma once

#include <optional>

#include <yl/edit.hpp>
#include "base/bytes.hpp"

namespace yl {

/// The orientation tag of the first directory; nothing when there is none, or the data are damaged.
[[nodiscard]] std::optional<Orientation> exif_orientation(ByteSpan tiff);

}  // namespace yl
