// The files of one job, packed into one.
//
//     bytes      what
//     8          "YLentry" and a line feed
//     8          size of the list, little-endian
//     ...        the list: JSON with the report, and the name, size and hash of each file
//     ...        the files, one after the other
//     16         XXH3 of all that stands before, in hexadecimal digits: 32
#pragma once

#include <functional>

#include <yl/build_cache.hpp>

namespace yl::batch {

/// Packs the files of `folder` that the entry names, and fills in their sizes and hashes.
[[nodiscard]] Status pack_entry(StoredEntry& entry, const std::filesystem::path& folder,
                                const std::filesystem::path& to);

/// Opens a packed entry once all of it matches its hash; fails with `ErrorKind::malformed` where it does
/// not.
[[nodiscard]] Result<CacheEntry> open_entry(const std::filesystem::path& path);

}  // namespace yl::batch
