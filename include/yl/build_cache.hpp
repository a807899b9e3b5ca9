// Files that were made before, found again by a key: on this machine, and for all machines of a team.
// Needs YellowLattice::batch.
//
//     auto cache = yl::or_exit(yl::batch::BuildCache::open("cache", {.max_bytes = 1 << 30}));
//     auto shared = yl::batch::shared_server("http://textures.example/cache", {});
#pragma once

#include <array>
#include <chrono>
#include <compare>
#include <cstdint>
#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <utility>
#include <vector>
#include <yl/api.hpp>
#include <yl/result.hpp>

namespace yl::batch {

/// 128 bits that stand for a content: XXH3 of it.
struct YL_API Hash {
    std::uint64_t high = 0, low = 0;
    friend auto operator<=>(const Hash&, const Hash&) = default;

    /// 32 hexadecimal digits.
    [[nodiscard]] std::string text() const;
    [[nodiscard]] static std::optional<Hash> parse(std::string_view text);
};

/// Of a file's content, read in pieces.
[[nodiscard]] YL_API Result<Hash> hash_file(const std::filesystem::path& path);
[[nodiscard]] YL_API Hash hash_text(std::string_view text);

/// One of the files of an entry.
struct StoredFile {
    std::string name = {};  ///< without folder
    std::uint64_t bytes = 0;
    Hash hash = {};
};

/// What one job made.
struct StoredEntry {
    std::string report = {};
    std::uint32_t findings = 0;
    std::vector<StoredFile> files = {};
};

/// An open entry, whole and checked against its hash.
class YL_API CacheEntry {
 public:
    CacheEntry(std::filesystem::path path, StoredEntry entry, std::vector<std::uint64_t> offsets)
        : path_(std::move(path)), entry_(std::move(entry)), offsets_(std::move(offsets)) {}

    /// The report, and the files by their index.
    [[nodiscard]] const StoredEntry& stored() const { return entry_; }
    /// The packed file itself.
    [[nodiscard]] const std::filesystem::path& path() const { return path_; }
    /// Puts the file of this index in its place, whole or not at all.
    [[nodiscard]] Status write_file(std::size_t index, const std::filesystem::path& place) const;

 private:
    std::filesystem::path path_;
    StoredEntry entry_;
    std::vector<std::uint64_t> offsets_;
};

/// Held by whoever makes what a key stands for; given back at the end of its scope, and by the system
/// where the program is killed.
class YL_API KeyLock {
 public:
    explicit KeyLock(int descriptor) : descriptor_(descriptor) {}
    KeyLock(KeyLock&& other) noexcept : descriptor_(std::exchange(other.descriptor_, -1)) {}
    KeyLock& operator=(KeyLock&&) = delete;
    ~KeyLock();

 private:
    int descriptor_;
};

struct CacheOptions {
    std::uint64_t max_bytes = std::uint64_t{4} << 30U;  ///< of all entries together
};

/// A folder with an entry for each key. Any number of processes may use one folder at once. What was
/// not used for longest goes first where it becomes too large.
class YL_API BuildCache {
 public:
    /// Makes the folder where it is not there.
    [[nodiscard]] static Result<std::shared_ptr<const BuildCache>> open(
        std::filesystem::path folder, const CacheOptions& options = {});

    /// Nothing where there is no entry, or one that is damaged, which is removed.
    [[nodiscard]] std::optional<CacheEntry> find(const Hash& key) const;
    /// Whether there is an entry, without reading it.
    [[nodiscard]] bool has(const Hash& key) const;

    /// Packs the files of a folder into an entry.
    [[nodiscard]] Result<CacheEntry> store(const Hash& key, const StoredEntry& entry,
                                           const std::filesystem::path& folder) const;
    /// Takes over a file that `CacheEntry::path()` named somewhere else. It is checked, and moved.
    [[nodiscard]] Result<CacheEntry> adopt(const Hash& key,
                                           const std::filesystem::path& file) const;

    /// Nothing where somebody else makes it at the moment.
    [[nodiscard]] std::optional<KeyLock> try_lock(const Hash& key) const;

    /// A new file's name in the folder, for what is on its way.
    [[nodiscard]] std::filesystem::path scratch() const;
    /// Removes entries until `max_bytes` are kept, and what killed programs left. Gives how many bytes
    /// are there then.
    [[nodiscard]] Result<std::uint64_t> trim() const;

 private:
    BuildCache(std::filesystem::path folder, const CacheOptions& options)
        : folder_(std::move(folder)), options_(options) {}
    [[nodiscard]] std::filesystem::path place_of(const Hash& key) const;

    std::filesystem::path folder_;
    CacheOptions options_;
};

/// Entries that several machines share. Its functions may be called by several threads at once.
class YL_API SharedCache {
 public:
    virtual ~SharedCache() = default;

    /// Fetches an entry into a file. False where there is none; fails where it cannot be told.
    [[nodiscard]] virtual Result<bool> fetch(const Hash& key,
                                             const std::filesystem::path& file) const = 0;
    /// Stores an entry, unless it is there.
    [[nodiscard]] virtual Status store(const Hash& key,
                                       const std::filesystem::path& file) const = 0;
    [[nodiscard]] virtual bool is_writable() const = 0;
    /// For messages.
    [[nodiscard]] virtual std::string name() const = 0;
};

/// How a shared cache is used.
struct SharedCacheOptions {
    bool is_writable = true;  ///< else it is only fetched from
    std::chrono::milliseconds connect_timeout{2000};
    std::chrono::milliseconds stall_timeout{10000};  ///< without a byte
    std::uint32_t retries = 2;                       ///< after failures that may pass
};

/// A folder that is there, such as one on a network file system.
[[nodiscard]] YL_API std::shared_ptr<const SharedCache> shared_folder(
    std::filesystem::path folder, const SharedCacheOptions& options = {});

/// A server that takes GET, HEAD and PUT; `url` is that of a folder. After `retries` it is not asked
/// again for half a minute.
[[nodiscard]] YL_API std::shared_ptr<const SharedCache> shared_server(
    std::string url, const SharedCacheOptions& options = {});

}  // namespace yl::batch
