#include "base/files.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"

namespace yl {

Status check_range(std::uint64_t size, std::uint64_t offset, std::uint64_t count) {
    if (offset <= size && count <= size - offset)
        return {};
    return fail(
        ErrorKind::malformed,
        fmt::format("the file ends early: {} bytes at {} were asked of {}", count, offset, size));
}

namespace {

class MemoryFile final : public File {
 public:
    explicit MemoryFile(SharedBytes content) : content_(std::move(content)) {}

    [[nodiscard]] std::uint64_t size() const override { return content_.size(); }
    [[nodiscard]] Status read_at(std::uint64_t offset, std::span<std::byte> to) const override {
        YL_CHECK(check_range(content_.size(), offset, to.size()));
        std::copy_n(content_.bytes().begin() + static_cast<std::ptrdiff_t>(offset), to.size(),
                    to.begin());
        return {};
    }

 private:
    SharedBytes content_;
};

class MemoryFiles final : public Files {
 public:
    explicit MemoryFiles(std::map<std::string, SharedBytes> contents)
        : contents_(std::move(contents)) {}

    [[nodiscard]] Result<std::unique_ptr<File>> open(
        const std::filesystem::path& name) const override {
        const auto found = contents_.find(name.lexically_normal().generic_string());
        if (found == contents_.end())
            return fail_at({ErrorKind::missing, "there is no such file in memory"}, name.string());
        return std::make_unique<MemoryFile>(found->second);
    }

    [[nodiscard]] Result<std::vector<std::string>> list() const override {
        std::vector<std::string> names;
        for (const auto& [name, content] : contents_)
            names.push_back(name);
        return names;
    }

 private:
    std::map<std::string, SharedBytes> contents_;
};

}  // namespace

std::shared_ptr<const Files> memory_files(std::map<std::string, SharedBytes> contents) {
    return std::make_shared<MemoryFiles>(std::move(contents));
}

Result<Buffer> read_file(const FilesOption& files, const std::filesystem::path& path,
                         std::uint64_t most) {
    if (files == nullptr)
        return read_file(path, most);
    YL_TRY(const auto file, files->open(path));
    if (file->size() > most)
        return fail_at(
            {ErrorKind::limit, fmt::format("{} bytes exceed the limit of {}", file->size(), most)},
            path.string());
    YL_TRY(Buffer bytes, Buffer::allocate(file->size()));
    const Status status = file->read_at(0, bytes.bytes());
    if (!status)
        return fail_at(status.error(), path.string());
    return bytes;
}

Result<Buffer> read_whole_file(const std::filesystem::path& name, const FilesOption& files,
                               std::uint64_t most) try {
    return read_file(files, name, most);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Status write_whole_file(const std::filesystem::path& path, std::span<const std::byte> bytes) try {
    return write_file(path, bytes);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::size_t> read_start(const FilesOption& files, const std::filesystem::path& path,
                               std::span<std::byte> target) {
    if (files == nullptr)
        return read_start(path, target);
    YL_TRY(const auto file, files->open(path));
    const auto count =
        static_cast<std::size_t>(std::min<std::uint64_t>(file->size(), target.size()));
    const Status status = file->read_at(0, target.first(count));
    if (!status)
        return fail_at(status.error(), path.string());
    return count;
}

}  // namespace yl
