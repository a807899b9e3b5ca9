// Files of the disk, or those that a program provides instead.
#pragma once

#include <yl/files.hpp>
#include "base/file.hpp"

namespace yl {

using FilesOption = std::shared_ptr<const Files>;  ///< null: the disk

/// As `read_file` and `read_start` of a path.
[[nodiscard]] YL_INTERNAL Result<Buffer> read_file(const FilesOption& files,
                                                   const std::filesystem::path& path,
                                                   std::uint64_t most = ~std::uint64_t{0});
[[nodiscard]] Result<std::size_t> read_start(const FilesOption& files,
                                             const std::filesystem::path& path,
                                             std::span<std::byte> target);

}  // namespace yl
