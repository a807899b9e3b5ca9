// Where there is no disk, as in WebAssembly: all that needs one fails. Stands in place of
// descriptor.cpp, disk_files.cpp, file.cpp and new_file.cpp.
#include "base/file.hpp"
#include "base/files.hpp"
#include "base/new_file.hpp"

namespace yl {
namespace {

tl::unexpected<Error> no_disk(const std::filesystem::path& path) {
    return fail_at({ErrorKind::io, "there is no disk here: give the bytes themselves"},
                   path.string());
}

class NoFiles final : public Files {
 public:
    [[nodiscard]] Result<std::unique_ptr<File>> open(
        const std::filesystem::path& name) const override {
        return no_disk(name);
    }
    [[nodiscard]] Result<std::vector<std::string>> list() const override { return no_disk({}); }
};

}  // namespace

std::shared_ptr<const Files> disk_files(std::filesystem::path) {
    return std::make_shared<NoFiles>();
}

ErrorKind file_error_kind(int) {
    return ErrorKind::io;
}

Result<Buffer> read_file(const std::filesystem::path& path, std::uint64_t) {
    return no_disk(path);
}

Result<std::size_t> read_start(const std::filesystem::path& path, std::span<std::byte>) {
    return no_disk(path);
}

Result<MappedFile> MappedFile::open(const std::filesystem::path& path) {
    return no_disk(path);
}

MappedFile::~MappedFile() = default;

Status write_file(const std::filesystem::path& path, std::span<const ByteSpan>, const Progress&) {
    return no_disk(path);
}

Status write_file(const std::filesystem::path& path, ByteSpan) {
    return no_disk(path);
}

tl::unexpected<Error> no_such_file(const Error& error, const std::filesystem::path& path,
                                   bool (*)(ByteSpan)) {
    return fail_at(error, path.string());
}

}  // namespace yl
