// Waits until files of some folders change. Needs YellowLattice::batch.
#pragma once

#include <chrono>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/result.hpp>

namespace yl::batch {

/// Sees files that are written, renamed into place, made and removed. Folders below are not watched
/// unless they are named too. For one thread.
class YL_API FolderWatch {
 public:
    /// From here on; what cannot be watched fails.
    [[nodiscard]] static Result<FolderWatch> open(std::span<const std::string> folders);
    FolderWatch(FolderWatch&&) noexcept;
    FolderWatch& operator=(FolderWatch&&) noexcept;
    ~FolderWatch();

    /// Blocks until something changed and then nothing for `quiet`, or four times as long since the
    /// first change. Gives the paths that changed, each once; none where nothing did for `most`.
    [[nodiscard]] Result<std::vector<std::string>> wait(
        std::chrono::milliseconds quiet, std::optional<std::chrono::milliseconds> most = {});

 private:
    struct Loop;
    explicit FolderWatch(std::unique_ptr<Loop> loop);
    std::unique_ptr<Loop> loop_;
};

}  // namespace yl::batch
