// Files: read whole, or through a map for those who ask; written whole or not at all.
#pragma once

#include <filesystem>
#include <initializer_list>
#include <span>
#include <vector>

#include <yl/bytes.hpp>
#include <yl/progress.hpp>
#include <yl/result.hpp>
#include "base/bytes.hpp"
#include "base/internal.hpp"

namespace yl {

/// What a number of errno means.
[[nodiscard]] YL_INTERNAL ErrorKind file_error_kind(int error_number);

/// A whole regular file in memory. Pipes and devices are refused, so that nothing waits for them.
/// Fails with `ErrorKind::limit` when the file has more than `most` bytes.
[[nodiscard]] YL_INTERNAL Result<Buffer> read_file(const std::filesystem::path& path,
                                                   std::uint64_t most = ~std::uint64_t{0});

/// The first bytes of a regular file, at most as many as `target` has; gives how many.
[[nodiscard]] Result<std::size_t> read_start(const std::filesystem::path& path,
                                             std::span<std::byte> target);

/// A whole regular file as memory, without a copy. Where another program makes the file shorter
/// meanwhile, reading from the map ends this program (SIGBUS): for files that nobody rewrites.
class MappedFile {
 public:
    [[nodiscard]] static Result<MappedFile> open(const std::filesystem::path& path);

    MappedFile(MappedFile&& other) noexcept : bytes_(std::exchange(other.bytes_, {})) {}
    MappedFile& operator=(MappedFile&& other) noexcept {
        std::swap(bytes_, other.bytes_);
        return *this;
    }
    MappedFile(const MappedFile&) = delete;
    MappedFile& operator=(const MappedFile&) = delete;
    ~MappedFile();

    [[nodiscard]] ByteSpan bytes() const { return bytes_; }

 private:
    explicit MappedFile(ByteSpan bytes) : bytes_(bytes) {}

    ByteSpan bytes_;
};

/// Writes the pieces one after the other to a nameless file beside `path` and, when all of it is on
/// the disk, puts it in the place of `path` in one step: whoever fails or is killed on the way
/// leaves the old file whole. A file that is replaced keeps its mode and, where the system allows
/// it, its owner; a symbolic link stays, and what it points to is replaced. Pipes and devices are
/// written to as they are.
[[nodiscard]] YL_INTERNAL Status write_file(const std::filesystem::path& path,
                                            std::span<const ByteSpan> pieces,
                                            const Progress& told = {});
[[nodiscard]] YL_INTERNAL Status write_file(const std::filesystem::path& path, ByteSpan bytes);

/// The error of a file that was not read. Where its name is the content of one, which happens with
/// content in a std::string, that is said instead.
[[nodiscard]] tl::unexpected<Error> no_such_file(const Error& error,
                                                 const std::filesystem::path& path,
                                                 bool (*looks_like_content)(ByteSpan));

}  // namespace yl
