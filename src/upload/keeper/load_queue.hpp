// Worker threads that turn requests into textures ready for a device.
#pragma once

#include <atomic>
#include <compare>
#include <condition_variable>
#include <map>
#include <mutex>
#include <thread>
#include <unordered_map>
#include <unordered_set>
#include <vector>

#include <yl/texture_keeper.hpp>

namespace yl {

/// A request to be read and prepared. A job replaces all earlier ones of its texture.
struct LoadJob {
    std::uint64_t texture = 0;     ///< the keeper's number for it
    std::uint64_t generation = 0;  ///< of the texture's jobs; older results are not wanted
    TextureRequest request = {};
    std::uint32_t drop_levels = 0;  ///< top levels to leave out
    bool has_choice = true;         ///< more may be left out where memory is short
    bool comes_first = false;       ///< others wait for what it frees
};

struct LoadedTexture {
    Texture texture = {};
    PreparedUpload prepared = {};
    TextureShape full_shape = {};  ///< on the device, with the levels that were dropped
    std::uint32_t dropped_levels = 0;
};

struct LoadResult {
    std::uint64_t texture = 0;
    std::uint64_t generation = 0;
    Result<LoadedTexture> loaded = LoadedTexture{};

    [[nodiscard]] std::uint64_t bytes() const {
        return loaded ? loaded->texture.shape().total_bytes() : 0;
    }
};

/// Reads and prepares one request, on the calling thread; of a job that has the choice, with no
/// more than `most_bytes` where levels can be left out.
[[nodiscard]] Result<LoadedTexture> load_wish(const LoadJob& job, const DeviceProfile& profile,
                                              const KeeperOptions& options,
                                              std::uint64_t most_bytes);

/// Jobs are taken by priority, and those of one priority in order. Workers stop taking them while
/// too much is waiting to be collected.
class LoadQueue {
 public:
    LoadQueue(DeviceProfile profile, const KeeperOptions& options);
    ~LoadQueue();
    LoadQueue(const LoadQueue&) = delete;
    LoadQueue& operator=(const LoadQueue&) = delete;

    void add(LoadJob job);
    /// Forgets the texture's job, if no worker has begun it.
    void forget(std::uint64_t texture);
    /// Of the texture's job, if no worker has begun it.
    void set_priority(std::uint64_t texture, int priority);
    /// Bytes of what was collected and is still held: they count as decoded ahead.
    void set_held_bytes(std::uint64_t bytes);
    /// What textures that are loaded for the first time may take on the device.
    void set_most_bytes(std::uint64_t bytes) { most_bytes_ = bytes; }
    /// What is done, in the order in which it was done.
    [[nodiscard]] std::vector<LoadResult> collect();
    /// Until there is something to collect, or nothing that a worker could do.
    void wait();
    [[nodiscard]] bool is_decoding(std::uint64_t texture) const;
    /// Nothing queued, nothing at work, nothing to collect.
    [[nodiscard]] bool is_idle() const;

 private:
    /// The order in which jobs are taken.
    struct Place {
        bool waits_its_turn = true;
        std::int64_t urgency = 0;  ///< the lower, the sooner
        std::uint64_t number = 0;

        friend auto operator<=>(const Place&, const Place&) = default;
    };

    void run(const std::stop_token& stop);
    void forget_locked(std::uint64_t texture);

    const DeviceProfile profile_;
    const KeeperOptions options_;
    mutable std::mutex mutex_;
    std::condition_variable_any work_or_room_;
    std::condition_variable done_;
    std::map<Place, LoadJob> jobs_;
    std::unordered_map<std::uint64_t, Place> queued_;  ///< of each texture that has a job here
    std::uint64_t next_place_ = 0;
    std::atomic<std::uint64_t> most_bytes_ = std::numeric_limits<std::uint64_t>::max();
    std::vector<LoadResult> results_;
    std::uint64_t result_bytes_ = 0;
    std::uint64_t held_bytes_ = 0;
    std::unordered_multiset<std::uint64_t> at_work_;
    std::vector<std::jthread> workers_;  // the last member: they end before the rest goes
};

}  // namespace yl
