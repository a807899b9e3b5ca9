// The table of image file formats.
#pragma once

#include "codec/picture_format.hpp"

namespace yl {

/// By a file's first bytes; null where none is known.
[[nodiscard]] const PictureFormat* find_picture_format(ByteSpan bytes);

/// Remarks on a name that ends like another format's.
void remark_on_name(const std::filesystem::path& path, PictureInfo& info);

}  // namespace yl
