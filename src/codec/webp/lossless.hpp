// Lossless WebP's pixels (RFC 9649, section 3).
#pragma once

#include <functional>

#include <yl/progress.hpp>
#include <yl/result.hpp>
#include "codec/webp/bits.hpp"

namespace yl::webp {

/// What the stream begins with:
///
///   0x2F (8)  width - 1 (14)  height - 1 (14)  alpha is used (1)  version: 0 (3)
struct LosslessHeader {
    std::uint32_t width = 0, height = 0;
    bool has_alpha = false;
};
constexpr std::size_t lossless_header_bytes = 5;

/// Fails with `ErrorKind::malformed` if it is not one.
[[nodiscard]] Result<LosslessHeader> lossless_header(ByteSpan stream);

/// Is given the rows from the top, as pixels of four bytes: alpha (highest), red, green, blue.
using RowSink = std::function<void(std::uint32_t y, std::span<const std::uint32_t> row)>;

/// Pixels of a stream without its header. `room` may hold all pixels while they are decoded, and
/// each row may be written over its part of it once it is handed out; if it is empty, memory is
/// taken.
[[nodiscard]] Status read_lossless(ByteSpan stream, std::uint32_t width, std::uint32_t height,
                                   std::span<std::uint32_t> room, const RowSink& sink,
                                   const Progress& progress);

}  // namespace yl::webp
