// What a texture file format has to offer; one folder and one line in container.cpp each.
#pragma once

#include <string_view>
#include <vector>

#include <yl/container.hpp>
#include "base/bytes.hpp"

namespace yl {

/// A file as the pieces that make it up, in order. Pieces may point into the texture itself.
struct EncodedFile {
    std::vector<ByteSpan> pieces;
    std::vector<std::vector<std::byte>> owned;  ///< what the pieces point into beside the texture
};

struct TextureFormat {
    std::string_view name;
    std::string_view ending;
    bool (*recognise)(ByteSpan bytes);
    Result<TextureFile> (*read)(ByteSpan bytes, const ReadLimits& limits);
    Result<EncodedFile> (*write)(const Texture& texture, const TextureWriteOptions& options);
};

[[nodiscard]] TextureFormat ktx2_format();

}  // namespace yl
