// A file's bytes: all of them in memory, or read as they are asked for.
#pragma once

#include <memory>
#include <vector>

#include <yl/files.hpp>
#include "base/bytes.hpp"

namespace yl {

/// May be asked by several threads at the same time.
class ByteSource {
 public:
    ByteSource(ByteSpan bytes) : bytes_(bytes) {}  // NOLINT: memory is a source
    explicit ByteSource(std::shared_ptr<const File> file) : file_(std::move(file)) {}

    [[nodiscard]] std::uint64_t size() const { return file_ ? file_->size() : bytes_.size(); }

    /// All bytes; nothing unless they are in memory.
    [[nodiscard]] ByteSpan memory() const { return bytes_; }
    [[nodiscard]] bool is_in_memory() const { return file_ == nullptr; }

    /// So many bytes; read into `space` unless they are in memory. Fails with `ErrorKind::malformed`
    /// where they are not there.
    [[nodiscard]] Result<ByteSpan> piece(std::uint64_t offset, std::uint64_t count,
                                         std::vector<std::byte>& space) const;

    /// The first bytes, as many as there are up to `most`.
    [[nodiscard]] Result<ByteSpan> start(std::size_t most, std::vector<std::byte>& space) const;

    /// Fills `target`. Fails as `piece` does.
    [[nodiscard]] Status read(std::uint64_t offset, std::span<std::byte> target) const;

 private:
    [[nodiscard]] Status check(std::uint64_t offset, std::uint64_t count) const;

    ByteSpan bytes_ = {};
    std::shared_ptr<const File> file_ = {};
};

}  // namespace yl
