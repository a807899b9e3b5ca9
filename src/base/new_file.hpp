// A file that comes into its place whole or not at all.
#pragma once

#include <sys/stat.h>

#include <filesystem>
#include <optional>
#include <string>

#include <yl/result.hpp>
#include "base/bytes.hpp"
#include "base/descriptor.hpp"
#include "base/internal.hpp"

namespace yl {

/// Is written beside its place without a name, so that nothing is left of it where the program fails
/// or is killed. A file that it replaces keeps its mode and, where the system allows it, its owner; a
/// symbolic link stays, and what it points to is replaced.
class YL_INTERNAL NewFile {
 public:
    /// Pipes and devices cannot be replaced.
    [[nodiscard]] static Result<NewFile> begin(const std::filesystem::path& path);

    NewFile(NewFile&& other) noexcept
        : place_(std::move(other.place_)),
          before_(other.before_),
          descriptor_(std::move(other.descriptor_)),
          name_(std::exchange(other.name_, {})) {}
    NewFile& operator=(NewFile&&) = delete;
    ~NewFile();

    [[nodiscard]] int descriptor() const { return descriptor_.get(); }

    /// Several threads may write at the same time. What is never written is zero.
    [[nodiscard]] Status write_at(std::uint64_t offset, ByteSpan bytes) const;

    /// Puts it in its place once all of it is on the disk.
    [[nodiscard]] Status commit();
    /// The same without waiting for the disk: for what is checked by its hash when it is read.
    [[nodiscard]] Status commit_soon();

 private:
    NewFile(std::filesystem::path place, std::optional<struct stat> before, Descriptor descriptor,
            std::string name)
        : place_(std::move(place)),
          before_(before),
          descriptor_(std::move(descriptor)),
          name_(std::move(name)) {}
    [[nodiscard]] Status keep_what_was() const;

    std::filesystem::path place_;
    std::optional<struct stat> before_;  ///< of the file in its place
    Descriptor descriptor_;
    std::string name_;  ///< while it is not in its place, where it has one
};

}  // namespace yl
