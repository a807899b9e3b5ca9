// WebP: pictures and animations read, and lossless pictures written.
#pragma once

#include "codec/picture_format.hpp"

namespace yl::webp {

[[nodiscard]] Result<PictureHeader> peek(ByteSpan bytes);
/// Of a whole file of which a piece is missing.
[[nodiscard]] Result<PictureHeader> peek_damaged(ByteSpan bytes);
/// As an animation's first frame shows it.
[[nodiscard]] Result<Picture> read(ByteSpan bytes, const ReadOptions& options);
[[nodiscard]] Result<PictureFrames> read_frames(ByteSpan bytes, const ReadOptions& options);
[[nodiscard]] Result<std::vector<std::byte>> write(ConstImageView image,
                                                   const WriteOptions& options);

}  // namespace yl::webp
