#include "pipes.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <poll.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstring>

namespace ylat {
namespace {

constexpr std::size_t piece_bytes = 1U << 16U;

tl::unexpected<yl::Error> system_error(const char* what, const std::string& name) {
    const int number = errno;
    const bool is_full = number == ENOSPC || number == ENOMEM;
    return yl::fail_at({is_full ? yl::ErrorKind::full : yl::ErrorKind::io,
                        fmt::format("{}: {}", what, std::strerror(number))},
                       name);
}

yl::Status write_all(int target, const std::byte* bytes, std::size_t count,
                     const std::string& name) {
    while (count > 0) {
        const ssize_t written = ::write(target, bytes, count);
        if (written < 0 && errno == EINTR)
            continue;
        if (written <= 0)
            return system_error("cannot write", name);
        bytes += written;
        count -= static_cast<std::size_t>(written);
    }
    return {};
}

/// Until the other end is closed; a pipe that nobody writes to is empty.
yl::Status copy_all(int from, int to, const std::string& name) {
    std::array<std::byte, piece_bytes> piece{};
    while (true) {
        const ssize_t got = ::read(from, piece.data(), piece.size());
        if (got == 0)
            return {};
        if (got > 0) {
            if (auto written = write_all(to, piece.data(), static_cast<std::size_t>(got), name);
                !written)
                return written;
        } else if (errno == EAGAIN) {
            pollfd waiting{from, POLLIN, 0};
            ::poll(&waiting, 1, -1);
        } else if (errno != EINTR) {
            return system_error("cannot read", name);
        }
    }
}

}  // namespace

bool hold_standard_streams() {
    const bool has_output = ::fcntl(STDOUT_FILENO, F_GETFD) >= 0;
    for (const int stream : {STDIN_FILENO, STDOUT_FILENO, STDERR_FILENO})
        if (::fcntl(stream, F_GETFD) < 0 && errno == EBADF)
            static_cast<void>(::open("/dev/null", stream == STDIN_FILENO ? O_RDONLY : O_WRONLY));
    return has_output;
}

Pipes::~Pipes() {
    for (const Copy& copy : copies_)
        ::close(copy.descriptor);
}

bool Pipes::is_pipe(const std::string& path) {
    struct stat info {};
    return path == "-" || (::stat(path.c_str(), &info) == 0 && S_ISFIFO(info.st_mode));
}

yl::Result<std::string> Pipes::copy_of(const std::string& path) {
    const std::string name = path == "-" ? "standard input" : path;
    const int from =
        path == "-" ? STDIN_FILENO : ::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK);
    if (from < 0)
        return system_error("cannot open", name);
    const int to = ::memfd_create("ylat", MFD_CLOEXEC);
    const auto copied =
        to < 0 ? yl::Status(system_error("cannot hold", name)) : copy_all(from, to, name);
    if (from != STDIN_FILENO)
        ::close(from);
    if (!copied) {
        if (to >= 0)
            ::close(to);
        return tl::unexpected(copied.error());
    }
    copies_.push_back({to, fmt::format("/proc/self/fd/{}", to), name});
    return copies_.back().path;
}

std::string Pipes::with_own_names(std::string text) const {
    for (const Copy& copy : copies_)
        for (std::size_t at = text.find(copy.path); at != std::string::npos;
             at = text.find(copy.path, at + copy.name.size()))
            text.replace(at, copy.path.size(), copy.name);
    return text;
}

yl::Status write_to_output(std::span<const std::byte> bytes) {
    return write_all(STDOUT_FILENO, bytes.data(), bytes.size(), "standard output");
}

}  // namespace ylat
