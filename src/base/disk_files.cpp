#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <cerrno>

#include <yl/status_macros.hpp>
#include "base/descriptor.hpp"
#include "base/files.hpp"

namespace yl {
namespace {

class DiskFile final : public File {
 public:
    DiskFile(OpenFile file, std::filesystem::path path)
        : file_(std::move(file)), path_(std::move(path)) {}

    [[nodiscard]] std::uint64_t size() const override { return file_.size; }

    [[nodiscard]] Status read_at(std::uint64_t offset, std::span<std::byte> to) const override {
        YL_CHECK(check_range(file_.size, offset, to.size()));
        while (!to.empty()) {
            const ssize_t got =
                ::pread(file_.descriptor.get(), to.data(), to.size(), static_cast<off_t>(offset));
            if (got < 0 && errno == EINTR)
                continue;
            if (got < 0)
                return io_error("cannot read", path_);
            if (got == 0)
                return fail_at({ErrorKind::io, "the file was made shorter while it was read"},
                               path_.string());
            offset += static_cast<std::uint64_t>(got);
            to = to.subspan(static_cast<std::size_t>(got));
        }
        return {};
    }

 private:
    OpenFile file_;
    std::filesystem::path path_;
};

class DiskFiles final : public Files {
 public:
    explicit DiskFiles(std::filesystem::path folder) : folder_(std::move(folder)) {}

    [[nodiscard]] Result<std::unique_ptr<File>> open(
        const std::filesystem::path& name) const override {
        const std::filesystem::path path = folder_ / name;
        YL_TRY(OpenFile file, open_regular(path));
        return std::make_unique<DiskFile>(std::move(file), path);
    }

    [[nodiscard]] Result<std::vector<std::string>> list() const override {
        const std::filesystem::path root = folder_.empty() ? "." : folder_;
        std::error_code error;
        std::vector<std::string> names;
        for (std::filesystem::recursive_directory_iterator at(root, error), end;
             !error && at != end; at.increment(error))
            if (at->is_regular_file(error))
                names.push_back(at->path().lexically_relative(root).generic_string());
        if (error)
            return fail_at({file_error_kind(error.value()),
                            fmt::format("cannot list the folder: {}", error.message())},
                           root.string());
        std::sort(names.begin(), names.end());
        return names;
    }

 private:
    std::filesystem::path folder_;
};

}  // namespace

std::shared_ptr<const Files> disk_files(std::filesystem::path folder) {
    return std::make_shared<DiskFiles>(std::move(folder));
}

}  // namespace yl
