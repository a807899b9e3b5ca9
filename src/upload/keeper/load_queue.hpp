// Worker threads that turn wishes into textures ready for a device.
#pragma once

#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>
#include <unordered_set>
#include <vector>

#include <yl/texture_keeper.hpp>

namespace yl {

/// A wish to be read and prepared. A job replaces all earlier ones of its texture.
struct LoadJob {
    std::uint64_t texture = 0;     ///< the keeper's number for it
    std::uint64_t generation = 0;  ///< of the texture's jobs; older results are not wanted
    TextureWish wish = {};
    std::uint32_t drop_levels = 0;  ///< top levels to leave out
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

/// Reads and prepares one wish, on the calling thread.
[[nodiscard]] Result<LoadedTexture> load_wish(const LoadJob& job, const DeviceProfile& profile,
                                              const KeeperOptions& options);

/// Jobs are taken in order. Workers stop taking them while too much is waiting to be collected.
class LoadQueue {
 public:
    LoadQueue(DeviceProfile profile, const KeeperOptions& options);
    ~LoadQueue();
    LoadQueue(const LoadQueue&) = delete;
    LoadQueue& operator=(const LoadQueue&) = delete;

    void add(LoadJob job);
    /// Forgets the texture's jobs that no worker has begun.
    void forget(std::uint64_t texture);
    /// What is done, in the order in which it was done.
    [[nodiscard]] std::vector<LoadResult> collect();
    /// Until there is something to collect, or nothing that a worker could do.
    void wait();
    [[nodiscard]] bool is_decoding(std::uint64_t texture) const;
    /// Nothing queued, nothing at work, nothing to collect.
    [[nodiscard]] bool is_idle() const;

 private:
    void run(const std::stop_token& stop);

    const DeviceProfile profile_;
    const KeeperOptions options_;
    mutable std::mutex mutex_;
    std::condition_variable_any work_or_room_;
    std::condition_variable done_;
    std::deque<LoadJob> jobs_;
    std::vector<LoadResult> results_;
    std::uint64_t result_bytes_ = 0;
    std::unordered_multiset<std::uint64_t> at_work_;
    std::vector<std::jthread> workers_;  // the last member: they end before the rest goes
};

}  // namespace yl
