// zlib streams (RFC 1950), packed and unpacked in one go by libdeflate.
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "base/bytes.hpp"
#include "base/internal.hpp"

namespace yl {

/// Packs `bytes` at libdeflate's level, 1 to 12. Fails only for want of memory.
[[nodiscard]] YL_INTERNAL Result<std::vector<std::byte>> pack_zlib(ByteSpan bytes, int level);

/// Unpacks into exactly `target`. The message says what is wrong with the stream, for a caller that
/// adds whose it is.
[[nodiscard]] Status unpack_zlib(ByteSpan packed, std::span<std::byte> target);

/// The same of a stream that may be longer, by no more than as much again or a mebibyte: gives by
/// how many bytes.
[[nodiscard]] Result<std::size_t> unpack_zlib_start(ByteSpan packed, std::span<std::byte> target);

/// Unpacks a stream of unknown length; nothing when it is damaged or longer than `most` bytes.
[[nodiscard]] std::optional<std::vector<std::byte>> unpack_zlib_within(ByteSpan packed,
                                                                       std::size_t most);

}  // namespace yl
