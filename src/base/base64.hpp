// Base64 (RFC 4648, section 4).
#pragma once

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/bytes.hpp"
#include "base/internal.hpp"

namespace yl {

/// Adds the bytes to a text, with padding.
YL_INTERNAL void append_base64(std::string& text, ByteSpan bytes);

/// The bytes of a text with or without padding; the alphabet for URLs is read as well. Nothing where
/// it holds another character or ends within a byte.
[[nodiscard]] YL_INTERNAL std::optional<std::vector<std::byte>> decode_base64(
    std::string_view text);

}  // namespace yl
