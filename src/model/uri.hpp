// URIs of glTF: relative paths, and data in the URI itself.
#pragma once

#include <filesystem>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include <yl/result.hpp>

#include "base/internal.hpp"

namespace yl::model {

/// "a%20b" as "a b" (RFC 3986); what is no code stays.
[[nodiscard]] YL_INTERNAL std::string percent_decoded(std::string_view text);

[[nodiscard]] bool is_data_uri(std::string_view uri);

/// The bytes of "data:[type][;base64],..." (RFC 2397). Fails with `ErrorKind::limit` beyond `most`
/// bytes, before it takes the memory.
[[nodiscard]] Result<std::vector<std::byte>> decode_data_uri(std::string_view uri,
                                                             std::uint64_t most);

/// The bytes as a data URI.
[[nodiscard]] std::string encode_data_uri(std::string_view type, std::span<const std::byte> bytes);

/// The file that a relative URI means: percent signs decoded (RFC 3986), either kind of slash.
/// Fails with `ErrorKind::usage` for other schemes, and, unless allowed, for what leads out of the
/// folder, be it by a symbolic link of the disk.
[[nodiscard]] Result<std::filesystem::path> resolve_uri(std::string_view uri,
                                                        const std::filesystem::path& folder,
                                                        bool allow_outside, bool is_on_disk = true);

}  // namespace yl::model
