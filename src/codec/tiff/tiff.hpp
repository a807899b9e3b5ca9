// TIFF: pages read into pictures, and one picture written.
#pragma once

#include "codec/picture_format.hpp"

namespace yl::tiff {

[[nodiscard]] bool recognise(ByteSpan bytes);
[[nodiscard]] Result<PictureHeader> peek(ByteSpan bytes);
/// The first page that is no preview.
[[nodiscard]] Result<Picture> read(ByteSpan bytes, const ReadOptions& options);
/// All pages, without previews and masks.
[[nodiscard]] Result<PictureFrames> read_pages(ByteSpan bytes, const ReadOptions& options);
/// The first page's rows; its strips or tiles are read one row of them after the other.
[[nodiscard]] Result<RowStart> open_rows(SharedFile file, const ReadOptions& options);
[[nodiscard]] Result<std::vector<std::byte>> write(ConstImageView image,
                                                   const WriteOptions& options);

}  // namespace yl::tiff
