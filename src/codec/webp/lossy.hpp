// Lossy WebP's pixels: one key frame of VP8 (RFC 6386).
#pragma once

#include <memory>

#include <yl/progress.hpp>
#include <yl/result.hpp>
#include "base/bytes.hpp"

namespace yl::webp {

/// What the frame begins with:
///
///   is not a key frame (1)  version (3)  is shown (1)  bytes of the first part (19)
///   0x9D 0x01 0x2A  width (14)  scale (2)  height (14)  scale (2)
struct LossyHeader {
    std::uint32_t width = 0, height = 0;
    std::uint32_t first_part = 0;  ///< its bytes
};
constexpr std::size_t lossy_header_bytes = 10;

/// Fails with `ErrorKind::malformed` if it is not one.
[[nodiscard]] Result<LossyHeader> lossy_header(ByteSpan stream);

/// Samples, rows from the top, in whole macroblocks.
struct Plane {
    std::uint32_t stride = 0;
    std::unique_ptr<std::uint8_t[]> samples{};

    [[nodiscard]] std::uint8_t* row(std::size_t y) { return samples.get() + y * stride; }
    [[nodiscard]] const std::uint8_t* row(std::size_t y) const {
        return samples.get() + y * stride;
    }
};

/// Luminance, and the two differences at half its size.
struct Planes {
    std::uint32_t width = 0, height = 0;  ///< of what is seen
    Plane y, u, v;
};

[[nodiscard]] Result<Planes> read_lossy(ByteSpan stream, const Progress& progress);

}  // namespace yl::webp
