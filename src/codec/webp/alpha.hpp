// The alpha beside lossy pixels (RFC 9649, section 2.7.1.2).
#pragma once

#include <vector>

#include <yl/progress.hpp>
#include <yl/result.hpp>
#include "base/bytes.hpp"

namespace yl::webp {

/// One byte for each pixel, rows from the top.
[[nodiscard]] Result<std::vector<std::uint8_t>> read_alpha(ByteSpan chunk, std::uint32_t width,
                                                           std::uint32_t height);

}  // namespace yl::webp
