// The pieces of a WebP file (RFC 9649, section 2).
//
//   RIFF (32)  bytes that follow (32)  WEBP (32), then chunks:
//   name (32)  bytes (32)  content, padded to an even length
#pragma once

#include <optional>
#include <vector>

#include <yl/picture.hpp>
#include "base/bytes.hpp"

namespace yl::webp {

/// The pixels of a picture or frame.
struct StoredImage {
    ByteSpan pixels{};
    ByteSpan alpha{};  ///< beside lossy pixels
    bool is_lossless = false;
    std::uint32_t width = 0, height = 0;
    bool has_alpha = false;
};

struct StoredFrame {
    StoredImage image{};
    std::uint32_t x = 0, y = 0;
    double seconds = 0;
    bool replaces = true, is_cleared = false;
};

struct WebpFile {
    std::uint32_t width = 0, height = 0;
    bool is_animated = false;
    std::uint32_t plays = 1;
    std::vector<StoredFrame> frames{};
    ByteSpan profile{};
    std::optional<Orientation> orientation{};

    /// Whether the first frame leaves no pixel transparent.
    [[nodiscard]] bool first_is_opaque() const;
};

[[nodiscard]] bool recognise(ByteSpan bytes);

/// Fails with `ErrorKind::malformed` if there are no pixels, or chunks contradict each other; with
/// `is_strict` if a chunk that matters is cut off.
[[nodiscard]] Result<WebpFile> parse(ByteSpan bytes, bool is_strict);

}  // namespace yl::webp
