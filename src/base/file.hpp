// Files: read through a memory map, written whole or not at all.
#pragma once

#include <filesystem>
#include <initializer_list>
#include <span>
#include <vector>

#include <yl/result.hpp>
#include "base/bytes.hpp"

namespace yl {

/// A whole file, read-only, as memory.
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

/// A whole file as a copy. Fails with `ErrorKind::limit` when it has more than `most` bytes.
[[nodiscard]] Result<std::vector<std::byte>> read_file(const std::filesystem::path& path,
                                                       std::uint64_t most);

/// Writes the pieces one after the other to a nameless file beside `path`, then puts it in the
/// place of `path` in one step: whoever fails or is killed on the way leaves the old file whole.
[[nodiscard]] Status write_file(const std::filesystem::path& path,
                                std::span<const ByteSpan> pieces);
[[nodiscard]] Status write_file(const std::filesystem::path& path, ByteSpan bytes);

}  // namespace yl
