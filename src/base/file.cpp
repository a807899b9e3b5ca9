#include "base/file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include "base/attempt.hpp"

namespace yl {
namespace {

/// Closes a file descriptor at the end of its scope.
class Descriptor {
 public:
    explicit Descriptor(int number) : number_(number) {}
    ~Descriptor() {
        if (number_ >= 0)
            ::close(number_);
    }
    Descriptor(const Descriptor&) = delete;
    Descriptor& operator=(const Descriptor&) = delete;
    [[nodiscard]] int get() const { return number_; }
    [[nodiscard]] bool valid() const { return number_ >= 0; }
    [[nodiscard]] bool close() { return ::close(std::exchange(number_, -1)) == 0; }

 private:
    int number_;
};

/// Removes a file at the end of its scope, unless it has been kept.
class Leftover {
 public:
    explicit Leftover(std::string path) : path_(std::move(path)) {}
    ~Leftover() {
        if (!path_.empty())
            ::unlink(path_.c_str());
    }
    Leftover(const Leftover&) = delete;
    Leftover& operator=(const Leftover&) = delete;
    void keep() { path_.clear(); }

 private:
    std::string path_;
};

tl::unexpected<Error> io_error(const char* what, const std::filesystem::path& path) {
    return fail_at({ErrorKind::io, fmt::format("{}: {}", what, std::strerror(errno))},
                   path.string());
}

Status write_all(int descriptor, std::span<const ByteSpan> pieces,
                 const std::filesystem::path& path) {
    for (ByteSpan piece : pieces) {
        while (!piece.empty()) {
            const ssize_t written = ::write(descriptor, piece.data(), piece.size());
            if (written < 0 && errno == EINTR)
                continue;
            if (written <= 0)
                return io_error("cannot write", path);
            piece = piece.subspan(static_cast<std::size_t>(written));
        }
    }
    return {};
}

std::string name_beside(const std::filesystem::path& path) {
    static constexpr int digits = 100000;
    timespec now{};
    ::clock_gettime(CLOCK_MONOTONIC, &now);
    return fmt::format("{}.{}-{}.part", path.string(), ::getpid(), now.tv_nsec % digits);
}

/// Gives the nameless file `descriptor` a name beside `path`.
Result<std::string> name_file(int descriptor, const std::filesystem::path& path) {
    const std::string source = fmt::format("/proc/self/fd/{}", descriptor);
    for (int attempt = 0; attempt < 100; ++attempt) {
        std::string name = name_beside(path);
        if (::linkat(AT_FDCWD, source.c_str(), AT_FDCWD, name.c_str(), AT_SYMLINK_FOLLOW) == 0)
            return name;
        if (errno != EEXIST)
            break;
    }
    return io_error("cannot write", path);
}

Status replace_file(const std::filesystem::path& path, std::span<const ByteSpan> pieces) {
    const std::string folder = path.has_parent_path() ? path.parent_path().string() : ".";
    Descriptor nameless(::open(folder.c_str(), O_TMPFILE | O_WRONLY | O_CLOEXEC, 0666));
    if (nameless.valid()) {
        YL_CHECK(write_all(nameless.get(), pieces, path));
        YL_TRY(const std::string name, name_file(nameless.get(), path));
        Leftover leftover(name);
        if (::rename(name.c_str(), path.c_str()) != 0)
            return io_error("cannot write", path);
        leftover.keep();
        return {};
    }
    // Some file systems know no nameless files; there the temporary has a name from the start.
    const std::string name = name_beside(path);
    Descriptor named(::open(name.c_str(), O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC, 0666));
    if (!named.valid())
        return io_error("cannot write", path);
    Leftover leftover(name);
    YL_CHECK(write_all(named.get(), pieces, path));
    if (!named.close() || ::rename(name.c_str(), path.c_str()) != 0)
        return io_error("cannot write", path);
    leftover.keep();
    return {};
}

}  // namespace

Result<MappedFile> MappedFile::open(const std::filesystem::path& path) {
    Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
    if (!file.valid())
        return io_error("cannot open", path);
    struct stat info {};
    if (::fstat(file.get(), &info) != 0)
        return io_error("cannot read", path);
    if (!S_ISREG(info.st_mode))
        return fail_at({ErrorKind::io, S_ISDIR(info.st_mode) ? "is a folder, not a file"
                                                             : "is not a regular file"},
                       path.string());
    if (info.st_size == 0)
        return MappedFile({});
    const auto size = static_cast<std::size_t>(info.st_size);
    void* map = ::mmap(nullptr, size, PROT_READ, MAP_PRIVATE, file.get(), 0);
    if (map == MAP_FAILED)
        return io_error("cannot read", path);
    return MappedFile({static_cast<const std::byte*>(map), size});
}

MappedFile::~MappedFile() {
    if (!bytes_.empty())
        ::munmap(const_cast<std::byte*>(bytes_.data()), bytes_.size());
}

Result<std::vector<std::byte>> read_file(const std::filesystem::path& path, std::uint64_t most) {
    const Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC));
    if (!file.valid())
        return io_error("cannot open the file", path);
    struct stat status {};
    if (::fstat(file.get(), &status) != 0)
        return io_error("cannot read the file", path);
    if (S_ISDIR(status.st_mode))
        return fail_at({ErrorKind::io, "is a folder, not a file"}, path.string());
    const auto size = static_cast<std::uint64_t>(std::max<off_t>(status.st_size, 0));
    if (size > most)
        return fail_at(
            {ErrorKind::limit, fmt::format("{} bytes exceed the limit of {}", size, most)},
            path.string());
    std::vector<std::byte> bytes(size);
    std::size_t at = 0;
    while (at < bytes.size()) {
        const ssize_t got = ::read(file.get(), bytes.data() + at, bytes.size() - at);
        if (got < 0 && errno == EINTR)
            continue;
        if (got < 0)
            return io_error("cannot read the file", path);
        if (got == 0)
            break;
        at += static_cast<std::size_t>(got);
    }
    bytes.resize(at);
    return bytes;
}

Status write_file(const std::filesystem::path& path, std::span<const ByteSpan> pieces) {
    struct stat info {};
    const bool exists = ::stat(path.c_str(), &info) == 0;
    if (exists && S_ISDIR(info.st_mode))
        return fail_at({ErrorKind::io, "is a folder; name a file to write"}, path.string());
    if (exists && !S_ISREG(info.st_mode)) {  // a pipe or a terminal cannot be replaced
        Descriptor stream(::open(path.c_str(), O_WRONLY | O_CLOEXEC));
        if (!stream.valid())
            return io_error("cannot write", path);
        return write_all(stream.get(), pieces, path);
    }
    if (!exists)
        return replace_file(path, pieces);
    if (::access(path.c_str(), W_OK) != 0)
        return io_error("cannot write", path);
    std::error_code error;
    const auto target = std::filesystem::canonical(path, error);  // through a link to its file
    return replace_file(error ? path : target, pieces);
}

Status write_file(const std::filesystem::path& path, ByteSpan bytes) {
    return write_file(path, std::span(&bytes, 1));
}

}  // namespace yl
