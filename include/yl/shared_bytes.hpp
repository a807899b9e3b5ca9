// Bytes together with whoever owns them.
#pragma once

#include <cstddef>
#include <memory>
#include <span>
#include <type_traits>
#include <utility>
#include <vector>

namespace yl {

/// A file's content in memory: bytes of a vector of its own, or a part of anything that an owner
/// keeps alive, such as one picture of a packed file. Copies share the bytes, which do not change.
class SharedBytes {
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
