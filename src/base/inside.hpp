// Whether files lie within a folder, whatever links lead there.
#pragma once

#include <filesystem>

namespace yl {

/// The path without links and dots, as far as it exists.
[[nodiscard]] inline std::filesystem::path without_links(const std::filesystem::path& path) {
#ifdef YL_NO_DISK
    return path.lexically_normal();
#else
    std::error_code error;
    const auto whole = std::filesystem::absolute(path, error);
    auto found = std::filesystem::weakly_canonical(whole, error);
    return error ? whole.lexically_normal() : found;
#endif
}

[[nodiscard]] inline bool lies_within(const std::filesystem::path& file,
                                      const std::filesystem::path& folder) {
    const auto from = without_links(folder.empty() ? "." : folder);
    const auto below = without_links(file).lexically_relative(from);
    return !below.empty() && *below.begin() != "..";
}

}  // namespace yl
