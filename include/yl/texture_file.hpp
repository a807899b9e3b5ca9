// Texture files: KTX 2.0 and DDS in and out, KTX 1 in.
//
//     yl::TextureFile file = yl::or_exit(yl::read_texture("leaf.ktx2"));
//     yl::or_exit(yl::write_texture("leaf.dds", file.texture));
//     yl::TextureStream stream = yl::or_exit(yl::TextureStream::open("large.ktx2"));
//     const std::uint32_t last = stream.shape().levels - 1;   // only the header has been read
//     std::vector<std::byte> smallest(stream.shape().level_bytes(last));
//     yl::or_exit(stream.read_level(last, smallest));
#pragma once

#include <filesystem>
#include <memory>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/finding.hpp>
#include <yl/progress.hpp>
#include <yl/texture.hpp>

namespace yl {

/// How a KTX 2.0 file packs each level; the values are the standard's scheme numbers.
enum class Supercompression : std::uint32_t { none = 0, zstd = 2, zlib = 3 };

struct TextureWriteOptions {
    Supercompression supercompression = Supercompression::none;  ///< KTX 2.0 only
    int level = 0;  ///< the compressor's own: zstd 1 .. 22, zlib 1 .. 12; 0: a good middle
    std::string writer = {};     ///< the program's name for `KTXwriter`; empty: this library's
    bool legacy_header = false;  ///< DDS: the header without the extension, for old programs
    Progress progress = {};
};

/// What may be read, and how a file's silence is understood. All parts may be left out.
struct TextureReadOptions {
    /// Of the texture that the file claims to hold.
    Limits limits = {};
    /// Settles how colours are encoded where a file cannot say it (DDS without its extension).
    std::optional<Role> role = {};
    /// How colours are encoded, against what the file and the role say: nothing but the label
    /// changes. Fails with `ErrorKind::usage` for formats that hold no such values.
    std::optional<Transfer> transfer = {};
    /// Read files that break rules which change nothing about their texels, and remark on each.
    bool forgiving = false;
    Progress progress = {};
};

/// What is known about a texture file beside the texture.
struct TextureFileInfo {
    std::string file_format = {};
    std::uint64_t file_bytes = 0;
    Supercompression supercompression = Supercompression::none;
    std::vector<std::string> remarks = {};  ///< what was odd but tolerated
};

/// A texture, and what its file says besides.
struct TextureFile {
    /// All levels, layers and faces.
    Texture texture = {};
    /// Of the file that it came from.
    TextureFileInfo info = {};
};

/// Reads a texture file, recognising its format by its first bytes. Every offset and length is
/// checked; an error names the field, its value and the rule.
[[nodiscard]] YL_API Result<TextureFile> read_texture(const std::filesystem::path& path,
                                                      const TextureReadOptions& options = {});
[[nodiscard]] YL_API Result<TextureFile> read_texture(std::span<const std::byte> bytes,
                                                      const TextureReadOptions& options = {});

struct TextureLayout;

/// How a stream gets at its file's bytes.
enum class FileAccess : std::uint8_t { copy, map };

/// A texture file of which only the header has been read. Levels are read one by one, in any order:
/// the smallest first, for something to show at once. Safe to use from several threads.
class YL_API TextureStream {
 public:
    /// Reads the file into memory. With `FileAccess::map` it is mapped instead, and its bytes are
    /// read when they are asked for: faster for large files of which few levels are wanted, but
    /// only for files that nobody rewrites in place meanwhile, since a map of a file that gets
    /// shorter ends the program (SIGBUS).
    /// Fails as `read_texture` does.
    [[nodiscard]] static Result<TextureStream> open(const std::filesystem::path& path,
                                                    const TextureReadOptions& options = {},
                                                    FileAccess access = FileAccess::copy);
    /// `bytes` must outlive the stream.
    /// Fails as `read_texture` does.
    [[nodiscard]] static Result<TextureStream> open(std::span<const std::byte> bytes,
                                                    const TextureReadOptions& options = {});

    /// From the header; valid as long as the stream is.
    [[nodiscard]] const TextureShape& shape() const;
    [[nodiscard]] const TextureMetadata& metadata() const;
    [[nodiscard]] const TextureFileInfo& info() const;

    /// One surface as it lies in the file, without a copy; valid as long as the stream or a copy of
    /// it lives, and not of a temporary. Fails with `ErrorKind::unsupported` where the file's bytes
    /// are not the texture's: with supercompression, and in legacy formats that have to be widened.
    [[nodiscard]] Result<ConstImageView> surface(std::uint32_t level, std::uint32_t layer = 0,
                                                 std::uint32_t face = 0,
                                                 std::uint32_t slice = 0) const&;
    Result<ConstImageView> surface(std::uint32_t level, std::uint32_t layer = 0,
                                   std::uint32_t face = 0,
                                   std::uint32_t slice = 0) const&& = delete;

    /// A whole level into `target`, which has `shape().level_bytes(level)` bytes: layer by layer,
    /// face by face, slice by slice.
    /// Fails with `ErrorKind::usage` for another level or size, and `malformed` for broken bytes.
    [[nodiscard]] Status read_level(std::uint32_t level, std::span<std::byte> target) const;

    /// All of it, levels at the same time.
    /// Fails as `read_level` does.
    [[nodiscard]] Result<Texture> read_all() const;

 private:
    TextureStream() = default;

    std::shared_ptr<const void> file_ = {};
    std::span<const std::byte> bytes_ = {};
    std::shared_ptr<const TextureLayout> layout_ = {};
    Progress progress_ = {};
};

/// Writes a texture file in the format that the name's ending asks for (.ktx2 or .dds). DDS keeps
/// no swizzle, sampler, origin and notes; it fails with `ErrorKind::unsupported` for formats that
/// it has no number for.
[[nodiscard]] YL_API Status write_texture(const std::filesystem::path& path, const Texture& texture,
                                          const TextureWriteOptions& options = {});

/// What a file of that name cannot say of a texture, each with its remedy.
[[nodiscard]] YL_API Findings losses_in_file(const std::filesystem::path& path,
                                             const TextureMetadata& metadata, Format format,
                                             const TextureWriteOptions& options = {});

/// The same into memory; `file_format` is the ending without its dot.
[[nodiscard]] YL_API Result<std::vector<std::byte>> texture_file_bytes(
    std::string_view file_format, const Texture& texture, const TextureWriteOptions& options = {});

/// What a file holds, by its first bytes.
enum class FileContent : std::uint8_t { picture, texture, other };

/// Fails where the file cannot be read, is a folder, a pipe or a device, or is empty.
[[nodiscard]] YL_API Result<FileContent> file_content(const std::filesystem::path& path);

/// Whether the bytes begin like a texture file that can be read.
[[nodiscard]] YL_API bool looks_like_texture(std::span<const std::byte> bytes);

/// "none", "zstd" or "zlib".
[[nodiscard]] YL_API std::string_view name(Supercompression scheme);

}  // namespace yl
