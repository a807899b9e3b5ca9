// Files of the disk, or those that a program provides instead.
#pragma once

#include <yl/files.hpp>
#include "base/file.hpp"

namespace yl {

using FilesOption = std::shared_ptr<const Files>;  ///< null: the disk

/// Whether a file of this size has `count` bytes at `offset`.
[[nodiscard]] Status check_range(std::uint64_t size, std::uint64_t offset, std::uint64_t count);

/// As `read_file` and `read_start` of a path.
[[nodiscard]] YL_INTERNAL Result<Buffer> read_file(const FilesOption& files,
                                                   const std::filesystem::path& path,
                                                   std::uint64_t most = ~std::uint64_t{0});
[[nodiscard]] Result<std::size_t> read_start(const FilesOption& files,
                                             const std::filesystem::path& path,
                                             std::span<std::byte> target);

/// What `parse` makes of a text file's content; errors say the file, and then the place within it.
template <class Parse>
[[nodiscard]] auto parse_file(const FilesOption& files, const std::filesystem::path& path,
                              std::uint64_t most, const Parse& parse)
    -> decltype(parse(std::string_view())) {
    const auto file = read_file(files, path, most);
    if (!file)
        return fail_at(file.error(), path.string());
    auto result = parse(as_text(file->bytes()));
    if (!result) {
        Error error = result.error();
        error.place = path.string() + (error.place.empty() ? "" : ": ") + error.place;
        return tl::unexpected(std::move(error));
    }
    return result;
}

}  // namespace yl
