// What a texture file format has to offer; one folder and one line in container.cpp each.
#pragma once

#include <array>
#include <functional>
#include <string_view>
#include <vector>

#include <yl/texture_file.hpp>
#include "base/byte_source.hpp"

namespace yl {

/// Where a level's surfaces lie. Strides are counted from the level's first byte once it is
/// unpacked.
struct LevelPlace {
    std::uint64_t offset = 0;  ///< in the file
    std::uint64_t length = 0;  ///< in the file
    std::uint64_t layer_stride = 0, face_stride = 0, slice_stride = 0, row_stride = 0;
};

/// Rows whose stored texels are not the texture's: `expand` makes `count` of them.
struct RowExpansion {
    std::uint32_t stored_bytes = 0;  ///< of a texel
    std::function<void(const std::byte* stored, std::byte* texels, std::size_t count)> expand = {};
};

/// A file as its header describes it: everything has been checked to lie within it.
struct TextureLayout {
    TextureShape shape = {};
    TextureMetadata metadata = {};
    TextureFileInfo info = {};
    std::vector<LevelPlace> levels = {};
    RowExpansion expansion = {};
    /// The place of each face among those stored, -1 where a cube lacks it.
    std::array<int, 6> stored_face = {0, 1, 2, 3, 4, 5};
    /// Unpacks a level into exactly `target`; null where levels are not packed.
    std::function<Status(ByteSpan packed, std::span<std::byte> target)> unpack = {};

    /// Fills in places of levels that hold their surfaces tightly, as KTX 2.0 has them.
    [[nodiscard]] LevelPlace tight_place(std::uint32_t level, std::uint64_t offset,
                                         std::uint64_t length) const;
};

/// A file as the pieces that make it up, in order. Pieces may point into the texture itself.
struct EncodedFile {
    std::vector<ByteSpan> pieces;
    std::vector<std::vector<std::byte>> owned;  ///< what the pieces point into beside the texture
};

/// A file of one surface that is written level by level, row by row.
struct FilePlan {
    std::vector<std::byte> head = {};
    std::vector<std::uint64_t> level_offsets = {};
    std::uint64_t bytes = 0;  ///< of the whole file
};

struct TextureFormat {
    std::string_view name;
    std::string_view ending;
    bool (*recognise)(ByteSpan bytes);
    Result<TextureLayout> (*read_header)(const ByteSource& file, const TextureReadOptions& options);
    /// Null where files are only read.
    Result<EncodedFile> (*write)(const Texture& texture, const TextureWriteOptions& options);
    Result<FilePlan> (*plan)(const TextureShape& shape, const TextureMetadata& metadata,
                             const TextureWriteOptions& options);
};

/// The plan of a file whose name ends so. Fails as `write_texture` does, and with `ErrorKind::usage`
/// for supercompression.
[[nodiscard]] Result<FilePlan> plan_texture_file(std::string_view ending, const TextureShape& shape,
                                                 const TextureMetadata& metadata,
                                                 const TextureWriteOptions& options);

/// The sizes and numbers of a KTX header, where 0 means that there is no such direction, no array
/// or one level.
[[nodiscard]] TextureShape ktx_shape(Format format, const std::array<std::uint32_t, 3>& size,
                                     std::uint32_t layers, std::uint32_t faces,
                                     std::uint32_t levels);

[[nodiscard]] TextureFormat ktx2_format();
[[nodiscard]] TextureFormat dds_format();
[[nodiscard]] TextureFormat ktx1_format();

}  // namespace yl
