#include "base/file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <pthread.h>
#include <signal.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <ctime>

#include <yl/status_macros.hpp>
#include "base/descriptor.hpp"
#include "base/progress.hpp"

namespace yl {
namespace {

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

/// Holds back signals that end the program while files change their names. Only this thread does
/// so: where another thread takes the signal, the temporary may stay behind.
class SignalsHeldBack {
 public:
    SignalsHeldBack() {
        sigset_t all;
        ::sigfillset(&all);
        ::pthread_sigmask(SIG_BLOCK, &all, &before_);
    }
    ~SignalsHeldBack() { ::pthread_sigmask(SIG_SETMASK, &before_, nullptr); }
    SignalsHeldBack(const SignalsHeldBack&) = delete;
    SignalsHeldBack& operator=(const SignalsHeldBack&) = delete;

 private:
    sigset_t before_{};
};

Status write_all(int descriptor, std::span<const ByteSpan> pieces,
                 const std::filesystem::path& path, ProgressCounter& progress) {
    constexpr std::size_t at_once = std::size_t{16} << 20;  // bytes, so that progress shows
    for (ByteSpan piece : pieces) {
        while (!piece.empty() && !progress.cancelled()) {
            const ssize_t written =
                ::write(descriptor, piece.data(), std::min(piece.size(), at_once));
            if (written < 0 && errno == EINTR)
                continue;
            if (written <= 0)
                return io_error("cannot write", path);
            piece = piece.subspan(static_cast<std::size_t>(written));
            progress.add(static_cast<std::uint64_t>(written));
        }
    }
    return progress.status();
}

/// Until the target is full or the file ends, which may be sooner than its size said.
Result<std::size_t> read_into(int descriptor, std::span<std::byte> target,
                              const std::filesystem::path& path) {
    std::size_t at = 0;
    while (at < target.size()) {
        const ssize_t got = ::read(descriptor, target.data() + at, target.size() - at);
        if (got < 0 && errno == EINTR)
            continue;
        if (got < 0)
            return io_error("cannot read", path);
        if (got == 0)
            break;
        at += static_cast<std::size_t>(got);
    }
    return at;
}

/// Short, so that a name of any length has one beside it.
std::string name_beside(const std::filesystem::path& path) {
    static constexpr int digits = 1000000;
    timespec now{};
    ::clock_gettime(CLOCK_MONOTONIC, &now);
    return (path.parent_path() / fmt::format(".{}-{}.part", ::getpid(), now.tv_nsec % digits))
        .string();
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

/// All of it, on the disk, with what the file before it had.
Status fill(int descriptor, std::span<const ByteSpan> pieces, const struct stat* before,
            const std::filesystem::path& path, ProgressCounter& progress) {
    YL_CHECK(write_all(descriptor, pieces, path, progress));
    if (before != nullptr) {
        // Who may not give a file away keeps it; its mode is set afterwards, as that clears bits.
        if (::fchown(descriptor, before->st_uid, before->st_gid) != 0 && errno != EPERM)
            return io_error("cannot keep the owner", path);
        if (::fchmod(descriptor, before->st_mode & 07777) != 0)
            return io_error("cannot keep the mode", path);
    }
    if (::fsync(descriptor) != 0 && errno != EINVAL && errno != EROFS)
        return io_error("cannot write", path);
    return {};
}

Status take_place(const std::string& name, const std::filesystem::path& path) {
    Leftover leftover(name);
    if (::rename(name.c_str(), path.c_str()) != 0)
        return io_error("cannot write", path);
    leftover.keep();
    return {};
}

Status replace_file(const std::filesystem::path& path, std::span<const ByteSpan> pieces,
                    const struct stat* before, ProgressCounter& progress) {
    const std::string folder = path.has_parent_path() ? path.parent_path().string() : ".";
    // A nameless file gets its name by way of /proc, which a container may lack.
    const bool can_name = ::access("/proc/self/fd", X_OK) == 0;
    Descriptor nameless(can_name ? ::open(folder.c_str(), O_TMPFILE | O_WRONLY | O_CLOEXEC, 0666)
                                 : -1);
    if (nameless.valid()) {
        YL_CHECK(fill(nameless.get(), pieces, before, path, progress));
        const SignalsHeldBack held;
        YL_TRY(const std::string name, name_file(nameless.get(), path));
        return take_place(name, path);
    }
    // Some file systems know no nameless files; there the temporary has a name from the start.
    const std::string name = name_beside(path);
    Descriptor named(::open(name.c_str(), O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC, 0666));
    if (!named.valid())
        return io_error("cannot write", path);
    Leftover leftover(name);
    YL_CHECK(fill(named.get(), pieces, before, path, progress));
    if (!named.close())
        return io_error("cannot write", path);
    leftover.keep();
    return take_place(name, path);
}

/// A pipe or a device, which cannot be replaced.
Status write_stream(const std::filesystem::path& path, std::span<const ByteSpan> pieces,
                    ProgressCounter& progress) {
    // Without a reader, opening a pipe would wait for one.
    Descriptor stream(::open(path.c_str(), O_WRONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY));
    if (!stream.valid())
        return errno == ENXIO
                   ? Status(fail_at({ErrorKind::io, "nobody reads from this pipe"}, path.string()))
                   : Status(io_error("cannot write", path));
    const int flags = ::fcntl(stream.get(), F_GETFL);
    if (flags < 0 || ::fcntl(stream.get(), F_SETFL, flags & ~O_NONBLOCK) != 0)
        return io_error("cannot write", path);
    return write_all(stream.get(), pieces, path, progress);
}

}  // namespace

ErrorKind file_error_kind(int error_number) {
    switch (error_number) {
        case ENOENT:
        case ENOTDIR:
            return ErrorKind::missing;
        case EACCES:
        case EPERM:
        case EROFS:
            return ErrorKind::forbidden;
        case ENOSPC:
        case EDQUOT:
        case EFBIG:
            return ErrorKind::full;
        case ENOMEM:
            return ErrorKind::memory;
        case EINTR:
            return ErrorKind::interrupted;
        default:
            return ErrorKind::io;
    }
}

Result<MappedFile> MappedFile::open(const std::filesystem::path& path) {
    YL_TRY(const OpenFile file, open_regular(path));
    if (file.size == 0)
        return MappedFile({});
    const auto size = static_cast<std::size_t>(file.size);
    void* map = ::mmap(nullptr, size, PROT_READ, MAP_PRIVATE, file.descriptor.get(), 0);
    if (map == MAP_FAILED)
        return io_error("cannot read", path);
    return MappedFile({static_cast<const std::byte*>(map), size});
}

MappedFile::~MappedFile() {
    if (!bytes_.empty())
        ::munmap(const_cast<std::byte*>(bytes_.data()), bytes_.size());
}

Result<Buffer> read_file(const std::filesystem::path& path, std::uint64_t most) {
    YL_TRY(const OpenFile file, open_regular(path));
    if (file.size > most)
        return fail_at(
            {ErrorKind::limit, fmt::format("{} bytes exceed the limit of {}", file.size, most)},
            path.string());
    auto buffer = Buffer::allocate(file.size);
    if (!buffer)
        return fail_at(buffer.error(), path.string());
    const auto at = read_into(file.descriptor.get(), buffer->bytes(), path);
    if (!at)
        return tl::unexpected(at.error());
    buffer->shrink(*at);
    return std::move(*buffer);
}

Result<std::size_t> read_start(const std::filesystem::path& path, std::span<std::byte> target) {
    YL_TRY(const OpenFile file, open_regular(path));
    return read_into(file.descriptor.get(), target, path);
}

Status write_file(const std::filesystem::path& path, std::span<const ByteSpan> pieces,
                  const Progress& told) {
    std::uint64_t bytes = 0;
    for (const ByteSpan piece : pieces)
        bytes += piece.size();
    ProgressCounter progress(told, Phase::writing, bytes);
    struct stat info {};
    const bool exists = ::stat(path.c_str(), &info) == 0;
    if (exists && S_ISDIR(info.st_mode))
        return fail_at({ErrorKind::io, "is a folder; name a file to write"}, path.string());
    if (exists && !S_ISREG(info.st_mode))
        return write_stream(path, pieces, progress);
    if (!exists)
        return replace_file(path, pieces, nullptr, progress);
    if (::access(path.c_str(), W_OK) != 0)
        return io_error("cannot write", path);
    std::error_code error;
    const auto target = std::filesystem::canonical(path, error);  // through a link to its file
    return replace_file(error ? path : target, pieces, &info, progress);
}

Status write_file(const std::filesystem::path& path, ByteSpan bytes) {
    return write_file(path, std::span(&bytes, 1));
}

tl::unexpected<Error> no_such_file(const Error& error, const std::filesystem::path& path,
                                   bool (*looks_like_content)(ByteSpan)) {
    const std::string& name = path.native();
    if (!looks_like_content(std::as_bytes(std::span(name))))
        return tl::unexpected(error);
    return fail_at({ErrorKind::usage,
                    "this is a file's content and not its name: pass the bytes, "
                    "std::as_bytes(std::span(text))"},
                   "path");
}

}  // namespace yl
