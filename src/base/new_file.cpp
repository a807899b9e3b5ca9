#include "base/new_file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <pthread.h>
#include <signal.h>
#include <unistd.h>

#include <cerrno>
#include <ctime>

#include <yl/status_macros.hpp>

namespace yl {
namespace {

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

}  // namespace

Result<NewFile> NewFile::begin(const std::filesystem::path& path) {
    std::optional<struct stat> before(std::in_place);
    std::filesystem::path place = path;
    if (::stat(path.c_str(), &*before) != 0) {
        before.reset();
    } else {
        if (S_ISDIR(before->st_mode))
            return fail_at({ErrorKind::io, "is a folder; name a file to write"}, path.string());
        if (!S_ISREG(before->st_mode))
            return fail_at({ErrorKind::io, "is a pipe or a device, which cannot be replaced"},
                           path.string());
        if (::access(path.c_str(), W_OK) != 0)
            return io_error("cannot write", path);
        std::error_code error;
        const auto target = std::filesystem::canonical(path, error);  // through a link to its file
        place = error ? path : target;
    }
    const std::string folder = place.has_parent_path() ? place.parent_path().string() : ".";
    // A nameless file gets its name by way of /proc, which a container may lack.
    const bool can_name = ::access("/proc/self/fd", X_OK) == 0;
    Descriptor nameless(can_name ? ::open(folder.c_str(), O_TMPFILE | O_WRONLY | O_CLOEXEC, 0666)
                                 : -1);
    if (nameless.valid())
        return NewFile(std::move(place), before, std::move(nameless), {});
    // Some file systems know no nameless files; there the temporary has a name from the start.
    std::string name = name_beside(place);
    Descriptor named(::open(name.c_str(), O_CREAT | O_EXCL | O_WRONLY | O_CLOEXEC, 0666));
    if (!named.valid())
        return io_error("cannot write", place);
    return NewFile(std::move(place), before, std::move(named), std::move(name));
}

NewFile::~NewFile() {
    if (!name_.empty())
        ::unlink(name_.c_str());
}

Status NewFile::write_at(std::uint64_t offset, ByteSpan bytes) const {
    while (!bytes.empty()) {
        const ssize_t written =
            ::pwrite(descriptor_.get(), bytes.data(), bytes.size(), static_cast<off_t>(offset));
        if (written < 0 && errno == EINTR)
            continue;
        if (written <= 0)
            return io_error("cannot write", place_);
        offset += static_cast<std::uint64_t>(written);
        bytes = bytes.subspan(static_cast<std::size_t>(written));
    }
    return {};
}

Status NewFile::keep_what_was() const {
    if (!before_)
        return {};
    // Who may not give a file away keeps it; its mode is set afterwards, as that clears bits.
    if (::fchown(descriptor_.get(), before_->st_uid, before_->st_gid) != 0 && errno != EPERM)
        return io_error("cannot keep the owner", place_);
    if (::fchmod(descriptor_.get(), before_->st_mode & 07777) != 0)
        return io_error("cannot keep the mode", place_);
    return {};
}

Status NewFile::commit() {
    if (::fsync(descriptor_.get()) != 0 && errno != EINVAL && errno != EROFS)
        return io_error("cannot write", place_);
    return commit_soon();
}

Status NewFile::commit_soon() {
    YL_CHECK(keep_what_was());
    const SignalsHeldBack held;
    if (name_.empty()) {
        YL_TRY(name_, name_file(descriptor_.get(), place_));
    } else if (!descriptor_.close()) {
        return io_error("cannot write", place_);
    }
    if (::rename(name_.c_str(), place_.c_str()) != 0)
        return io_error("cannot write", place_);
    name_.clear();
    return {};
}

}  // namespace yl
