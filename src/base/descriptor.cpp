#include "base/descriptor.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>

#include <cerrno>
#include <cstring>

#include "base/file.hpp"

namespace yl {

tl::unexpected<Error> io_error(const char* what, const std::filesystem::path& path) {
    const int number = errno;
    return fail_at({file_error_kind(number), fmt::format("{}: {}", what, std::strerror(number))},
                   path.string());
}

Result<OpenFile> open_regular(const std::filesystem::path& path) {
    Descriptor file(::open(path.c_str(), O_RDONLY | O_CLOEXEC | O_NONBLOCK | O_NOCTTY));
    if (!file.valid())
        return io_error("cannot open", path);
    struct stat info {};
    if (::fstat(file.get(), &info) != 0)
        return io_error("cannot read", path);
    if (!S_ISREG(info.st_mode))
        return fail_at({ErrorKind::io, S_ISDIR(info.st_mode) ? "is a folder, not a file"
                                                             : "is a pipe or a device, not a file"},
                       path.string());
    return OpenFile{std::move(file), static_cast<std::uint64_t>(info.st_size)};
}

}  // namespace yl
