// Texture files: reading and writing KTX 2.0 and DDS, reading KTX 1.
//
//     yl::TextureFile file = yl::or_exit(yl::read_texture("leaf.ktx2"));
//     yl::or_exit(yl::write_texture("leaf.dds", file.texture));
//     yl::TextureStream stream = yl::or_exit(
//         yl::TextureStream::open("large.ktx2", {}, yl::FileAccess::on_demand));
//     const std::uint32_t last = stream.shape().levels - 1;   // only the header has been read
//     std::vector<std::byte> smallest(stream.shape().level_bytes(last));
//     yl::or_exit(stream.read_level(last, smallest));
#pragma once

#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/files.hpp>
#include <yl/finding.hpp>
#include <yl/progress.hpp>
#include <yl/texture.hpp>

namespace yl {

/// Supercompression schemes of KTX 2.0, with the numbers of the standard.
enum class Supercompression : std::uint32_t { none = 0, zstd = 2, zlib = 3 };

struct TextureWriteOptions {
    Supercompression supercompression = Supercompression::none;  ///< KTX 2.0 only
    int level = 0;               ///< of the compressor: zstd 1 .. 22, zlib 1 .. 12; 0: a medium one
    std::string writer = {};     ///< your program's name for `KTXwriter`; empty: this library
    bool legacy_header = false;  ///< DDS: no DX10 extension, for old programs
    Progress progress = {};
};

/// Limits, and what to assume if a file does not say. All members are optional.
struct TextureReadOptions {
    /// For the texture that the file claims to hold.
    Limits limits = {};
    /// Decides how colours are encoded if a file cannot say it (DDS without the DX10 extension).
    std::optional<Role> role = {};
    /// How colours are encoded, overriding file and role; changes only the format's label. Fails
    /// with `ErrorKind::usage` for formats that cannot be sRGB.
    std::optional<Transfer> transfer = {};
    /// Reads files that break rules which do not affect texels, and remarks on each.
    bool forgiving = false;
    std::shared_ptr<const Files> files = {};  ///< where paths lead; null: the disk
    Progress progress = {};
};

/// What is known about a texture file besides the texture.
struct TextureFileInfo {
    std::string file_format = {};
    std::uint64_t file_bytes = 0;
    Supercompression supercompression = Supercompression::none;
    std::vector<std::string> remarks = {};  ///< what was odd but tolerated
};

/// A texture and information about its file.
struct TextureFile {
    /// All levels, layers and faces.
    Texture texture = {};
    /// About the file.
    TextureFileInfo info = {};
};

/// Reads a texture file; recognises its format by its first bytes. Checks every offset and length;
/// errors name the field, its value and the rule.
[[nodiscard]] YL_API Result<TextureFile> read_texture(const std::filesystem::path& path,
                                                      const TextureReadOptions& options = {});
[[nodiscard]] YL_API Result<TextureFile> read_texture(std::span<const std::byte> bytes,
                                                      const TextureReadOptions& options = {});

struct TextureLayout;
class ByteSource;

/// How a stream accesses its file.
enum class FileAccess : std::uint8_t {
    copy,       ///< all of it is read into memory
    on_demand,  ///< the header is read, and then each level that is asked for
    map,        ///< it is mapped into memory
};

/// Receives a level's texels, ordered as `TextureStream::read_level` gives them; says whether to go
/// on.
using LevelHandler = std::function<bool(std::uint32_t level, std::span<const std::byte> texels)>;

/// A texture file of which only the header has been read. Levels can be read in any order, for
/// example the smallest first to show something early. Safe to use from several threads.
class YL_API TextureStream {
 public:
    /// `FileAccess::on_demand` needs neither time nor memory for levels that nobody asks for, and
    /// works with any `options.files`. `FileAccess::map` saves the copy as well, but do not map files
    /// that may be rewritten in place: if a mapped file shrinks, the program is killed by SIGBUS.
    /// Fails as `read_texture` does.
    [[nodiscard]] static Result<TextureStream> open(const std::filesystem::path& path,
                                                    const TextureReadOptions& options = {},
                                                    FileAccess access = FileAccess::copy);
    /// `bytes` must outlive the stream.
    /// Fails as `read_texture` does.
    [[nodiscard]] static Result<TextureStream> open(std::span<const std::byte> bytes,
                                                    const TextureReadOptions& options = {});

    /// From the header; valid as long as the stream.
    [[nodiscard]] const TextureShape& shape() const;
    [[nodiscard]] const TextureMetadata& metadata() const;
    [[nodiscard]] const TextureFileInfo& info() const;

    /// A view of one surface in the file, without copying; valid as long as the stream or a copy of
    /// it; deleted for temporaries. Fails with `ErrorKind::unsupported` if the bytes of the file
    /// are not those of the texture: with supercompression and in legacy formats that have to be
    /// widened; and if they are read on demand.
    [[nodiscard]] Result<ConstImageView> surface(std::uint32_t level, std::uint32_t layer = 0,
                                                 std::uint32_t face = 0,
                                                 std::uint32_t slice = 0) const&;
    Result<ConstImageView> surface(std::uint32_t level, std::uint32_t layer = 0,
                                   std::uint32_t face = 0,
                                   std::uint32_t slice = 0) const&& = delete;

    /// Reads a level into `target`, which has `shape().level_bytes(level)` bytes, ordered by layer,
    /// face and slice. Fails with `ErrorKind::usage` for a wrong level or size, and with
    /// `malformed` for damaged bytes.
    [[nodiscard]] Status read_level(std::uint32_t level, std::span<std::byte> target) const;

    /// Reads one surface straight into memory of the caller's: `target` has the level's size, the
    /// texture's format, and any stride. Fails as `read_level` does.
    [[nodiscard]] Status read_surface(ImageView target, std::uint32_t level,
                                      std::uint32_t layer = 0, std::uint32_t face = 0,
                                      std::uint32_t slice = 0) const;

    /// Reads the levels from the last, which is the smallest, to `first_level`, and hands over each
    /// as soon as it is there, until `handler` says no. Fails as `read_level` does.
    [[nodiscard]] Status read_smallest_first(std::uint32_t first_level,
                                             const LevelHandler& handler) const;

    /// Reads everything, or the levels from `first_level` on as a smaller texture; several at the same
    /// time. Fails as `read_level` does.
    [[nodiscard]] Result<Texture> read_all(std::uint32_t first_level = 0) const;

 private:
    TextureStream() = default;
    [[nodiscard]] static Result<TextureStream> open(const ByteSource& source,
                                                    const TextureReadOptions& options);

    std::shared_ptr<const void> file_ = {};
    std::shared_ptr<const ByteSource> source_ = {};
    std::shared_ptr<const TextureLayout> layout_ = {};
    Progress progress_ = {};
};

/// Writes a texture file in the format of the file name ending (.ktx2 or .dds). DDS cannot store
/// swizzle, sampler, origin and key values, and fails with `ErrorKind::unsupported` for formats
/// without a DXGI number.
[[nodiscard]] YL_API Status write_texture(const std::filesystem::path& path, const Texture& texture,
                                          const TextureWriteOptions& options = {});

/// Findings about what a file with that ending cannot store of a texture.
[[nodiscard]] YL_API Findings losses_in_file(const std::filesystem::path& path,
                                             const TextureMetadata& metadata, Format format,
                                             const TextureWriteOptions& options = {});

/// The same into memory; `file_format` is the ending without the dot.
[[nodiscard]] YL_API Result<std::vector<std::byte>> texture_file_bytes(
    std::string_view file_format, const Texture& texture, const TextureWriteOptions& options = {});

/// What a file holds, judging by its first bytes.
enum class FileContent : std::uint8_t { picture, texture, other };

/// Fails if the file cannot be read, is empty, or is a folder, a pipe or a device.
[[nodiscard]] YL_API Result<FileContent> file_content(
    const std::filesystem::path& path, const std::shared_ptr<const Files>& files = {});

/// Whether the bytes begin like a texture file in a known format.
[[nodiscard]] YL_API bool looks_like_texture(std::span<const std::byte> bytes);

/// "none", "zstd" or "zlib".
[[nodiscard]] YL_API std::string_view name(Supercompression scheme);

}  // namespace yl
