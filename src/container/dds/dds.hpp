// DDS files.
#pragma once

#include "container/texture_format.hpp"

namespace yl::dds {

[[nodiscard]] bool recognise(ByteSpan bytes);
[[nodiscard]] Result<TextureLayout> read_header(const ByteSource& file,
                                                const TextureReadOptions& options);
[[nodiscard]] Result<EncodedFile> write(const Texture& texture, const TextureWriteOptions& options);
[[nodiscard]] Result<FilePlan> plan(const TextureShape& shape, const TextureMetadata& metadata,
                                    const TextureWriteOptions& options);

}  // namespace yl::dds
