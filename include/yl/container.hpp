// Texture files: KTX 2.0 in and out.
#pragma once

#include <filesystem>
#include <string>
#include <vector>
#include <yl/texture.hpp>

namespace yl {

/// How a KTX 2.0 file packs each level; the values are the standard's scheme numbers.
enum class Supercompression : std::uint32_t { none = 0, zstd = 2, zlib = 3 };

struct TextureWriteOptions {
    Supercompression supercompression = Supercompression::none;
    int level = 0;  ///< the compressor's own: zstd 1 .. 22, zlib 1 .. 12; 0: a good middle
    std::string writer = {};  ///< the program's name for `KTXwriter`; empty: this library's
};

/// What is known about a texture file beside the texture.
struct TextureFileInfo {
    std::string file_format = {};
    std::uint64_t file_bytes = 0;
    Supercompression supercompression = Supercompression::none;
    std::vector<std::string> remarks = {};  ///< what was odd but tolerated
};

struct TextureFile {
    Texture texture = {};
    TextureFileInfo info = {};
};

/// Reads a texture file, recognising its format by its first bytes. Every offset and length is
/// checked; an error names the field, its value and the rule.
[[nodiscard]] Result<TextureFile> read_texture(const std::filesystem::path& path,
                                               const ReadLimits& limits = {});
[[nodiscard]] Result<TextureFile> read_texture(std::span<const std::byte> bytes,
                                               const ReadLimits& limits = {});

/// Writes a texture file in the format that the name's ending asks for (.ktx2).
[[nodiscard]] Status write_texture(const std::filesystem::path& path, const Texture& texture,
                                   const TextureWriteOptions& options = {});

/// The same into memory; `file_format` is the ending without its dot.
[[nodiscard]] Result<std::vector<std::byte>> encode_texture(
    std::string_view file_format, const Texture& texture, const TextureWriteOptions& options = {});

/// Whether the bytes begin like a texture file that can be read.
[[nodiscard]] bool looks_like_texture(std::span<const std::byte> bytes);

[[nodiscard]] std::string_view name(Supercompression scheme);

}  // namespace yl
