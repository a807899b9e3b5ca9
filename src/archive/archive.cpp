#include <yl/archive.hpp>

#include <fmt/format.h>
#include <zip.h>

#include <algorithm>
#include <mutex>
#include <optional>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"

namespace yl {
namespace {

struct CloseArchive {
    void operator()(zip_t* archive) const { zip_discard(archive); }
};
struct CloseEntry {
    void operator()(zip_file_t* entry) const { zip_fclose(entry); }
};

/// libzip's handle, which one thread may use at a time, and the bytes that it reads from.
struct Archive {
    SharedBytes bytes{};
    std::unique_ptr<zip_t, CloseArchive> handle{};
    std::mutex one_at_a_time{};
};

ErrorKind kind_of(const zip_error_t& error) {
    switch (zip_error_code_zip(&error)) {
        case ZIP_ER_NOENT:
            return ErrorKind::missing;
        case ZIP_ER_MEMORY:
            return ErrorKind::memory;
        case ZIP_ER_OPEN:
        case ZIP_ER_READ:
        case ZIP_ER_SEEK:
            return ErrorKind::io;
        case ZIP_ER_NOPASSWD:
        case ZIP_ER_COMPNOTSUPP:
        case ZIP_ER_ENCRNOTSUPP:
            return ErrorKind::unsupported;
        default:
            return ErrorKind::malformed;
    }
}

tl::unexpected<Error> archive_error(zip_error_t& error, const std::string& place) {
    return fail_at({kind_of(error),
                    fmt::format("cannot read from the archive: {}", zip_error_strerror(&error))},
                   place);
}

class ArchiveFile final : public File {
 public:
    ArchiveFile(std::shared_ptr<Archive> archive, zip_uint64_t index, std::uint64_t size,
                std::string name)
        : archive_(std::move(archive)), index_(index), size_(size), name_(std::move(name)) {}

    [[nodiscard]] std::uint64_t size() const override { return size_; }

    [[nodiscard]] Status read_at(std::uint64_t offset, std::span<std::byte> to) const override {
        if (offset > size_ || to.size() > size_ - offset)
            return fail_at({ErrorKind::malformed,
                            fmt::format("the file ends early: {} bytes at {} were asked of {}",
                                        to.size(), offset, size_)},
                           name_);
        const std::lock_guard lock(archive_->one_at_a_time);
        if (offset == 0 && to.size() == size_ && !content_)
            return unpack(to);  // all at once, which needs no copy
        if (!content_) {
            YL_TRY(Buffer content, Buffer::allocate(size_));
            YL_CHECK(unpack(content.bytes()));
            content_ = std::move(content);
        }
        std::copy_n(content_->bytes().begin() + static_cast<std::ptrdiff_t>(offset), to.size(),
                    to.begin());
        return {};
    }

 private:
    Status unpack(std::span<std::byte> to) const {
        const std::unique_ptr<zip_file_t, CloseEntry> entry(
            zip_fopen_index(archive_->handle.get(), index_, 0));
        if (entry == nullptr)
            return archive_error(*zip_get_error(archive_->handle.get()), name_);
        while (!to.empty()) {
            const zip_int64_t got = zip_fread(entry.get(), to.data(), to.size());
            if (got < 0)
                return archive_error(*zip_file_get_error(entry.get()), name_);
            if (got == 0)
                return fail_at({ErrorKind::malformed, "the file is shorter than the archive says"},
                               name_);
            to = to.subspan(static_cast<std::size_t>(got));
        }
        return {};
    }

    std::shared_ptr<Archive> archive_;
    zip_uint64_t index_;
    std::uint64_t size_;
    std::string name_;
    mutable std::optional<Buffer> content_{};
};

class ArchiveFiles final : public Files {
 public:
    explicit ArchiveFiles(std::shared_ptr<Archive> archive) : archive_(std::move(archive)) {}

    [[nodiscard]] Result<std::unique_ptr<File>> open(
        const std::filesystem::path& path) const override {
        const std::string name = path.lexically_normal().generic_string();
        const std::lock_guard lock(archive_->one_at_a_time);
        zip_t* handle = archive_->handle.get();
        zip_stat_t stat;
        if (zip_stat(handle, name.c_str(), 0, &stat) != 0)
            return zip_error_code_zip(zip_get_error(handle)) == ZIP_ER_NOENT
                       ? fail_at({ErrorKind::missing, "the archive has no such file"}, name)
                       : archive_error(*zip_get_error(handle), name);
        if ((stat.valid & ZIP_STAT_ENCRYPTION_METHOD) != 0 && stat.encryption_method != ZIP_EM_NONE)
            return fail_at({ErrorKind::unsupported, "the file is encrypted"}, name);
        return std::make_unique<ArchiveFile>(archive_, stat.index, stat.size, name);
    }

    [[nodiscard]] Result<std::vector<std::string>> list() const override {
        const std::lock_guard lock(archive_->one_at_a_time);
        std::vector<std::string> names;
        const zip_int64_t count = zip_get_num_entries(archive_->handle.get(), 0);
        for (zip_int64_t i = 0; i < count; ++i) {
            const char* name =
                zip_get_name(archive_->handle.get(), static_cast<zip_uint64_t>(i), 0);
            if (name != nullptr && !std::string_view(name).ends_with('/'))
                names.emplace_back(name);
        }
        std::sort(names.begin(), names.end());
        return names;
    }

 private:
    std::shared_ptr<Archive> archive_;
};

Result<std::shared_ptr<const Files>> opened(zip_source_t* source, SharedBytes bytes,
                                            const std::string& place) {
    auto archive = std::make_shared<Archive>();
    archive->bytes = std::move(bytes);
    zip_error_t error;
    zip_error_init(&error);
    archive->handle.reset(zip_open_from_source(source, ZIP_RDONLY, &error));
    if (archive->handle == nullptr) {
        zip_source_free(source);
        auto failed = archive_error(error, place);
        zip_error_fini(&error);
        return failed;
    }
    return std::make_shared<const ArchiveFiles>(std::move(archive));
}

}  // namespace

namespace {

class FilesWithArchives final : public Files {
 public:
    [[nodiscard]] Result<std::unique_ptr<File>> open(
        const std::filesystem::path& path) const override {
        std::error_code error;
        std::filesystem::path outer;
        for (auto part = path.begin(); part != path.end(); ++part) {
            outer /= *part;
            const auto next = std::next(part);
            if (next == path.end() || !std::filesystem::is_regular_file(outer, error))
                continue;
            YL_TRY(const auto archive, open_archive(outer));
            auto file = archive->open(path.lexically_relative(outer));
            if (file)
                return file;
            return fail_at({file.error().kind, file.error().message}, path.string());
        }
        return disk_->open(path);
    }

    [[nodiscard]] Result<std::vector<std::string>> list() const override { return disk_->list(); }

 private:
    std::shared_ptr<const Files> disk_ = disk_files();
};

}  // namespace

std::shared_ptr<const Files> files_with_archives() {
    return std::make_shared<FilesWithArchives>();
}

Result<std::shared_ptr<const Files>> open_archive(const std::filesystem::path& path) try {
    // Opened here first, for the same words about files that are not there, and against pipes.
    YL_TRY(const auto file, disk_files()->open(path));
    static_cast<void>(file);
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_file_create(path.c_str(), 0, -1, &error);
    if (source == nullptr)
        return archive_error(error, path.string());
    return opened(source, {}, path.string());
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<std::shared_ptr<const Files>> open_archive(SharedBytes bytes) try {
    zip_error_t error;
    zip_error_init(&error);
    zip_source_t* source = zip_source_buffer_create(bytes.bytes().data(), bytes.size(), 0, &error);
    if (source == nullptr)
        return archive_error(error, "archive");
    return opened(source, std::move(bytes), "archive");
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl
