// Memory: an aligned buffer for pixels, and bytes that are shared with whoever owns them.
#pragma once

#include <cstddef>
#include <memory>
#include <span>
#include <type_traits>
#include <utility>
#include <vector>
#include <yl/api.hpp>
#include <yl/result.hpp>

namespace yl {

/// Bytes that are owned, aligned and not cleared; it can be moved, not copied.
class YL_API Buffer {
 public:
    /// Rows and levels that start here suit every SIMD width in use.
    static constexpr std::size_t alignment = 64;

    Buffer() = default;
    /// A buffer that was moved from is empty.
    Buffer(Buffer&& other) noexcept
        : bytes_(std::move(other.bytes_)), size_(std::exchange(other.size_, 0)) {}
    Buffer& operator=(Buffer&& other) noexcept {
        bytes_ = std::move(other.bytes_);
        size_ = std::exchange(other.size_, 0);
        return *this;
    }

    /// The bytes are not set. Fails with `ErrorKind::memory` when there is no such memory.
    [[nodiscard]] static Result<Buffer> allocate(std::uint64_t size);

    /// Forgets the bytes from `size` on; no effect where there are fewer.
    void shrink(std::size_t size) { size_ = size < size_ ? size : size_; }

    /// The bytes are valid as long as the buffer is and nobody moves from it.
    [[nodiscard]] std::size_t size() const { return size_; }
    [[nodiscard]] std::byte* data() { return bytes_.get(); }
    [[nodiscard]] const std::byte* data() const { return bytes_.get(); }
    [[nodiscard]] std::span<std::byte> bytes() { return {data(), size_}; }
    [[nodiscard]] std::span<const std::byte> bytes() const { return {data(), size_}; }

 private:
    struct Free {
        std::size_t aligned_to;

        Free() : aligned_to(alignment) {}
        explicit Free(std::size_t bytes) : aligned_to(bytes) {}
        void operator()(std::byte* bytes) const;
    };

    std::unique_ptr<std::byte[], Free> bytes_;
    std::size_t size_ = 0;
};

/// A file's content in memory: bytes of a vector of its own, or a part of anything that an owner
/// keeps alive, such as one picture of a packed file. Copies share the bytes, which do not change.
class YL_API SharedBytes {
 public:
    SharedBytes() = default;
    SharedBytes(std::nullptr_t) {}
    SharedBytes(std::vector<std::byte> bytes)
        : SharedBytes(std::make_shared<const std::vector<std::byte>>(std::move(bytes))) {}
    template <class Vector>
    requires std::is_convertible_v < Vector*, const std::vector<std::byte>
    * > SharedBytes(std::shared_ptr<Vector> bytes) {
        if (bytes != nullptr)
            bytes_ = *bytes;
        owner_ = std::move(bytes);
    }
    /// `bytes` are there as long as `owner` is, which is not null.
    SharedBytes(std::span<const std::byte> bytes, std::shared_ptr<const void> owner)
        : bytes_(bytes), owner_(std::move(owner)) {}

    /// Whether there is a content, be it an empty one.
    explicit operator bool() const { return owner_ != nullptr; }
    [[nodiscard]] std::span<const std::byte> bytes() const { return bytes_; }
    [[nodiscard]] std::size_t size() const { return bytes_.size(); }

 private:
    std::span<const std::byte> bytes_ = {};
    std::shared_ptr<const void> owner_ = {};
};

}  // namespace yl
