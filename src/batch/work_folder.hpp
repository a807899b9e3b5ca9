// Where files are made before they go into their places.
#pragma once

#include <atomic>

#include <yl/batch.hpp>
#include "base/descriptor.hpp"

namespace yl::batch {

/// A folder of this run alone, removed at its end. Those that killed runs left beside it are removed
/// first.
class WorkFolder {
 public:
    /// In the temporary folder of the system when `parent` is empty.
    [[nodiscard]] static Result<WorkFolder> create(std::filesystem::path parent);
    WorkFolder(WorkFolder&& other) noexcept
        : folder_(std::exchange(other.folder_, {})), lock_(std::move(other.lock_)) {}
    WorkFolder& operator=(WorkFolder&&) = delete;
    ~WorkFolder();

    /// A new empty folder inside.
    [[nodiscard]] Result<std::filesystem::path> next() const;

 private:
    WorkFolder(std::filesystem::path folder, Descriptor lock)
        : folder_(std::move(folder)), lock_(std::move(lock)) {}

    std::filesystem::path folder_;
    Descriptor lock_;
    mutable std::atomic<unsigned> count_ = 0;
};

/// Removes the temporaries that killed programs left in a folder of outputs.
void remove_left_parts(const std::filesystem::path& folder);

}  // namespace yl::batch
