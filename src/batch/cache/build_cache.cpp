#include <yl/build_cache.hpp>

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/file.h>
#include <sys/stat.h>
#include <unistd.h>

#include <algorithm>
#include <atomic>

#include <yl/status_macros.hpp>
#include "base/descriptor.hpp"
#include "batch/cache/entry.hpp"

namespace yl::batch {
namespace {

namespace fs = std::filesystem;

constexpr const char* entry_ending = ".entry";

Status make_folder(const fs::path& folder) {
    std::error_code error;
    fs::create_directories(folder, error);
    if (error)
        return fail_at({ErrorKind::io, "cannot make the folder: " + error.message()},
                       folder.string());
    return {};
}

struct KeptEntry {
    fs::path path = {};
    std::uint64_t bytes = 0;
    timespec used{};
};

/// All regular files below a folder.
std::vector<KeptEntry> files_below(const fs::path& folder) {
    std::vector<KeptEntry> files;
    std::error_code error;
    for (fs::recursive_directory_iterator at(folder, error), end; !error && at != end;
         at.increment(error)) {
        struct stat info {};
        if (::stat(at->path().c_str(), &info) == 0 && S_ISREG(info.st_mode))
            files.push_back({at->path(), static_cast<std::uint64_t>(info.st_size), info.st_mtim});
    }
    return files;
}

bool is_older(const timespec& a, const timespec& b) {
    return a.tv_sec != b.tv_sec ? a.tv_sec < b.tv_sec : a.tv_nsec < b.tv_nsec;
}

/// What is on its way or locked belongs to somebody for this long at most.
constexpr long long scratch_seconds = 24LL * 3600;

void remove_old(const fs::path& folder) {
    for (const KeptEntry& file : files_below(folder)) {
        std::error_code error;
        if (::time(nullptr) - file.used.tv_sec > scratch_seconds)
            fs::remove(file.path, error);
    }
}

}  // namespace

KeyLock::~KeyLock() {
    if (descriptor_ >= 0)
        ::close(descriptor_);
}

Result<std::shared_ptr<const BuildCache>> BuildCache::open(fs::path folder,
                                                           const CacheOptions& options) {
    for (const char* part : {"entries", "locks", "scratch"})
        YL_CHECK(make_folder(folder / part));
    return std::shared_ptr<const BuildCache>(new BuildCache(std::move(folder), options));
}

fs::path BuildCache::place_of(const Hash& key) const {
    const std::string text = key.text();
    return folder_ / "entries" / text.substr(0, 2) / (text + entry_ending);
}

bool BuildCache::has(const Hash& key) const {
    return ::access(place_of(key).c_str(), R_OK) == 0;
}

std::optional<CacheEntry> BuildCache::find(const Hash& key) const {
    const fs::path place = place_of(key);
    auto entry = open_entry(place);
    if (entry) {
        // The file's time is when it was used last.
        ::utimensat(AT_FDCWD, place.c_str(), nullptr, 0);
        return std::move(*entry);
    }
    std::error_code error;
    if (entry.error().kind == ErrorKind::malformed)
        fs::remove(place, error);
    return {};
}

Result<CacheEntry> BuildCache::store(const Hash& key, const StoredEntry& entry,
                                     const fs::path& folder) const {
    const fs::path place = place_of(key);
    YL_CHECK(make_folder(place.parent_path()));
    StoredEntry packed = entry;
    YL_CHECK(pack_entry(packed, folder, place));
    return open_entry(place);
}

Result<CacheEntry> BuildCache::adopt(const Hash& key, const fs::path& file) const {
    YL_TRY(const CacheEntry entry, open_entry(file));
    const fs::path place = place_of(key);
    YL_CHECK(make_folder(place.parent_path()));
    std::error_code error;
    fs::rename(file, place, error);
    if (error)
        return fail_at({ErrorKind::io, "cannot move an entry: " + error.message()}, place.string());
    return open_entry(place);
}

std::optional<KeyLock> BuildCache::try_lock(const Hash& key) const {
    const fs::path path = folder_ / "locks" / key.text();
    const int descriptor = ::open(path.c_str(), O_CREAT | O_RDWR | O_CLOEXEC, 0666);
    if (descriptor < 0)
        return KeyLock(-1);  // no locks on this file system: work is done twice at worst
    if (::flock(descriptor, LOCK_EX | LOCK_NB) == 0)
        return KeyLock(descriptor);
    const bool is_held = errno == EWOULDBLOCK;
    ::close(descriptor);
    return is_held ? std::nullopt : std::optional<KeyLock>(KeyLock(-1));
}

fs::path BuildCache::scratch() const {
    static std::atomic<unsigned> count = 0;
    return folder_ / "scratch" / fmt::format("{}-{}", ::getpid(), count++);
}

Result<std::uint64_t> BuildCache::trim() const {
    remove_old(folder_ / "scratch");
    remove_old(folder_ / "locks");
    std::vector<KeptEntry> entries = files_below(folder_ / "entries");
    std::ranges::sort(
        entries, [](const KeptEntry& a, const KeptEntry& b) { return is_older(a.used, b.used); });
    std::uint64_t bytes = 0;
    for (const KeptEntry& entry : entries)
        bytes += entry.bytes;
    for (const KeptEntry& entry : entries) {
        if (bytes <= options_.max_bytes)
            break;
        std::error_code error;
        if (fs::remove(entry.path, error))
            bytes -= entry.bytes;
    }
    return bytes;
}

}  // namespace yl::batch
