// Where files come from: the disk, memory, or anything else that a program has.
//
//     auto files = yl::memory_files({{"sky.png", yl::SharedBytes(std::move(content))}});
//     yl::Picture sky = yl::or_exit(yl::read_picture("sky.png", {.files = files}));
#pragma once

#include <cstdint>
#include <filesystem>
#include <map>
#include <memory>
#include <span>
#include <string>
#include <vector>
#include <yl/api.hpp>
#include <yl/bytes.hpp>
#include <yl/result.hpp>

namespace yl {

/// An open file. Its functions may be called by several threads at the same time.
class YL_API File {
 public:
    virtual ~File() = default;

    /// In bytes.
    [[nodiscard]] virtual std::uint64_t size() const = 0;

    /// Fills `to` with what begins at `offset`; fails if the file has less.
    [[nodiscard]] virtual Status read_at(std::uint64_t offset, std::span<std::byte> to) const = 0;
};

/// Files by their names. Whatever reads a file by its name takes one of these in its options, and
/// the disk without. Its functions may be called by several threads at the same time.
class YL_API Files {
 public:
    virtual ~Files() = default;

    /// Fails with `ErrorKind::missing` if there is no such file.
    [[nodiscard]] virtual Result<std::unique_ptr<File>> open(
        const std::filesystem::path& name) const = 0;

    /// The names of all files, in order.
    [[nodiscard]] virtual Result<std::vector<std::string>> list() const = 0;
};

/// Regular files of the disk; names are paths, and relative ones begin in `folder`. Pipes and devices
/// are refused.
[[nodiscard]] YL_API std::shared_ptr<const Files> disk_files(std::filesystem::path folder = {});

/// Contents in memory by their names, with slashes between folders.
[[nodiscard]] YL_API std::shared_ptr<const Files> memory_files(
    std::map<std::string, SharedBytes> contents);

/// A whole file in memory; null `files`: of the disk. Fails with `ErrorKind::limit` for more than
/// `most` bytes.
[[nodiscard]] YL_API Result<Buffer> read_whole_file(const std::filesystem::path& name,
                                                    const std::shared_ptr<const Files>& files = {},
                                                    std::uint64_t most = ~std::uint64_t{0});

/// Writes a file of the disk as everything here is written: whole, in the place of an old one of this
/// name, or not at all.
[[nodiscard]] YL_API Status write_whole_file(const std::filesystem::path& path,
                                             std::span<const std::byte> bytes);

}  // namespace yl
