#include "base/file.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/mman.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>

#include <yl/status_macros.hpp>
#include "base/descriptor.hpp"
#include "base/new_file.hpp"
#include "base/progress.hpp"

namespace yl {
namespace {

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
    if (exists && !S_ISREG(info.st_mode) && !S_ISDIR(info.st_mode))
        return write_stream(path, pieces, progress);
    YL_TRY(NewFile file, NewFile::begin(path));
    YL_CHECK(write_all(file.descriptor(), pieces, path, progress));
    return file.commit();
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
