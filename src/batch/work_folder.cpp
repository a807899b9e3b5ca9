#include "batch/work_folder.hpp"

#include <fcntl.h>
#include <fmt/format.h>
#include <signal.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <charconv>

#include <yl/status_macros.hpp>
#include "batch/folder_entries.hpp"

namespace yl::batch {
namespace {

namespace fs = std::filesystem;

constexpr const char* lock_ending = ".lock";

/// Locked by its run for as long as that lives.
std::optional<Descriptor> lock_file(const fs::path& path, int flags) {
    Descriptor file(::open(path.c_str(), O_RDWR | O_CLOEXEC | flags, 0666));
    if (!file.valid() || ::flock(file.get(), LOCK_EX | LOCK_NB) != 0)
        return {};
    struct stat info {};
    if (::fstat(file.get(), &info) != 0 || info.st_nlink == 0)
        return {};
    return file;
}

void remove_left_runs(const fs::path& parent) {
    std::error_code error;
    for (const fs::directory_entry& one : folder_entries(parent)) {
        const fs::path& path = one.path();
        if (path.extension() != lock_ending || !path.filename().string().starts_with("run-"))
            continue;
        if (const auto lock = lock_file(path, 0)) {
            fs::path folder = path;
            fs::remove_all(folder.replace_extension(), error);
            fs::remove(path, error);
        }
    }
}

}  // namespace

Result<WorkFolder> WorkFolder::create(fs::path parent) {
    std::error_code error;
    if (parent.empty())
        parent = fs::temp_directory_path(error) / "yl-batch";
    fs::create_directories(parent, error);
    if (error)
        return fail_at({ErrorKind::io, "cannot make the folder: " + error.message()},
                       parent.string());
    remove_left_runs(parent);
    constexpr int attempts = 1000;
    for (int i = 0; i < attempts; ++i) {
        const fs::path folder = parent / fmt::format("run-{}-{}", ::getpid(), i);
        auto lock = lock_file(folder.string() + lock_ending, O_CREAT | O_EXCL);
        if (lock && fs::create_directory(folder, error))
            return WorkFolder(folder, std::move(*lock));
        if (error)
            break;
    }
    return fail_at({ErrorKind::io, "cannot make a folder for what is under way"}, parent.string());
}

WorkFolder::~WorkFolder() {
    if (folder_.empty())
        return;
    std::error_code error;
    fs::remove_all(folder_, error);
    fs::remove(folder_.string() + lock_ending, error);
}

Result<fs::path> WorkFolder::next() const {
    const fs::path folder = folder_ / std::to_string(count_++);
    std::error_code error;
    if (!fs::create_directory(folder, error))
        return fail_at({ErrorKind::io, "cannot make the folder: " + error.message()},
                       folder.string());
    return folder;
}

void remove_left_parts(const fs::path& folder) {
    std::error_code error;
    for (const fs::directory_entry& one : folder_entries(folder)) {
        // ".PROCESS-NUMBER.part"
        const std::string name = one.path().filename().string();
        int process = 0;
        if (!name.starts_with('.') || !name.ends_with(".part"))
            continue;
        const auto [end, wrong] =
            std::from_chars(name.data() + 1, name.data() + name.size(), process);
        if (wrong == std::errc{} && *end == '-' && ::kill(process, 0) != 0 && errno == ESRCH)
            fs::remove(one.path(), error);
    }
}

}  // namespace yl::batch
