// PNG files.
#pragma once

#include "codec/picture_format.hpp"

namespace yl::png {

[[nodiscard]] bool recognise(ByteSpan bytes);
[[nodiscard]] Result<PictureHeader> peek(ByteSpan bytes);
[[nodiscard]] Result<Picture> read(ByteSpan bytes, const ReadOptions& options);
/// The frames of an animation, or the one picture.
[[nodiscard]] Result<PictureFrames> read_frames(ByteSpan bytes, const ReadOptions& options);
[[nodiscard]] Result<RowStart> open_rows(SharedFile file, const ReadOptions& options);
[[nodiscard]] Result<std::vector<std::byte>> write(ConstImageView image,
                                                   const WriteOptions& options);

}  // namespace yl::png
