// KTX 2.0 files.
#pragma once

#include "container/texture_format.hpp"

namespace yl::ktx2 {

[[nodiscard]] bool recognise(ByteSpan bytes);
[[nodiscard]] Result<TextureLayout> read_header(ByteSpan bytes, const TextureReadOptions& options);
[[nodiscard]] Result<EncodedFile> write(const Texture& texture, const TextureWriteOptions& options);

}  // namespace yl::ktx2
