// An owned run of bytes for pixels: aligned, not cleared, movable.
#pragma once

#include <cstddef>
#include <memory>
#include <span>
#include <utility>
#include <yl/result.hpp>

namespace yl {

class Buffer {
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

}  // namespace yl
