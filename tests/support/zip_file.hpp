// ZIP archives that the general-purpose library writes.
#pragma once

#include <cstddef>
#include <string>
#include <vector>

namespace support {

struct ZipEntry {
    std::string name;
    std::vector<std::byte> content;
    bool is_stored = false;  ///< else deflated
    bool is_encrypted = false;
};

/// With an empty folder besides.
[[nodiscard]] std::vector<std::byte> zip_file(const std::vector<ZipEntry>& entries);

}  // namespace support
