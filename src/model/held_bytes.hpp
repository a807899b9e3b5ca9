// Bytes that a model holds for its images and vertices.
#pragma once

#include <memory>
#include <optional>
#include <vector>

#include <yl/image.hpp>
#include "base/files.hpp"
#include "base/internal.hpp"

namespace yl::model {

/// Bytes in memory: a file's, or decoded ones.
class HeldBytes {
 public:
    explicit HeldBytes(Buffer file) : file_(std::move(file)), bytes_(file_.bytes()) {}
    explicit HeldBytes(std::vector<std::byte> decoded)
        : decoded_(std::move(decoded)), bytes_(decoded_) {}
    HeldBytes(const HeldBytes&) = delete;
    HeldBytes& operator=(const HeldBytes&) = delete;

    [[nodiscard]] ByteSpan bytes() const { return bytes_; }

 private:
    const Buffer file_ = {};
    std::vector<std::byte> decoded_ = {};
    ByteSpan bytes_ = {};
};

/// The whole file; one of more bytes than the limits allow is refused.
[[nodiscard]] YL_INTERNAL Result<std::unique_ptr<HeldBytes>> open_bytes(
    const std::filesystem::path& file, const Limits& limits, const FilesOption& files = {});

}  // namespace yl::model
