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

/// Owns aligned, uninitialised bytes. Movable, not copyable.
class YL_API Buffer {
 public:
    /// Suits every SIMD width in use.
    static constexpr std::size_t alignment = 64;

    Buffer() = default;
    /// The moved-from buffer is empty.
    Buffer(Buffer&& other) noexcept
        : bytes_(std::move(other.bytes_)), size_(std::exchange(other.size_, 0)) {}
    Buffer& operator=(Buffer&& other) noexcept {
        bytes_ = std::move(other.bytes_);
        size_ = std::exchange(other.size_, 0);
        return *this;
    }

    /// Allocates uninitialised bytes. Fails with `ErrorKind::memory` when memory runs out.
    [[nodiscard]] static Result<Buffer> allocate(std::uint64_t size);

    /// Drops the bytes from `size` on; has no effect on a smaller buffer.
    void shrink(std::size_t size) { size_ = size < size_ ? size : size_; }

    /// Pointers and spans are valid until the buffer is destroyed or moved from.
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

/// The content of a file in memory: a vector of its own, or part of something that `owner` keeps
/// alive, such as one picture in an archive. Copies share the bytes, which never change.
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
    /// `owner` keeps `bytes` alive and must not be null.
    SharedBytes(std::span<const std::byte> bytes, std::shared_ptr<const void> owner)
        : bytes_(bytes), owner_(std::move(owner)) {}

    /// True if there is content, even if it is empty.
    explicit operator bool() const { return owner_ != nullptr; }
    [[nodiscard]] std::span<const std::byte> bytes() const { return bytes_; }
    [[nodiscard]] std::size_t size() const { return bytes_.size(); }

 private:
    std::span<const std::byte> bytes_ = {};
    std::shared_ptr<const void> owner_ = {};
};

}  // namespace yl
