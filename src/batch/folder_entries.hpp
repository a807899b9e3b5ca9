// What lies in a folder, without exceptions.
#pragma once

#include <filesystem>
#include <vector>

namespace yl::batch {

/// In no order; fewer where the folder cannot be read to its end. An empty path is the current folder.
[[nodiscard]] inline std::vector<std::filesystem::directory_entry> folder_entries(
    const std::filesystem::path& folder) {
    std::vector<std::filesystem::directory_entry> entries;
    std::error_code error;
    for (std::filesystem::directory_iterator at(folder.empty() ? "." : folder, error), end;
         !error && at != end; at.increment(error))
        entries.push_back(*at);
    return entries;
}

}  // namespace yl::batch
