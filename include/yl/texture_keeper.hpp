// Loading many textures in the background, with placeholders until they arrive.
//
//     yl::TextureKeeper keeper(device);
//     yl::TextureTicket leaf = keeper.request({.file = "leaf.png"});
//     while (is_running) {
//         keeper.pump();                              // once a frame
//         draw_with(*keeper.texture(leaf));           // a placeholder until it is there
//     }
#pragma once

#include <chrono>
#include <future>
#include <memory>
#include <yl/api.hpp>
#include <yl/texture_request.hpp>
#include <yl/upload.hpp>

namespace yl {

/// Identifies a request. Tickets of equal requests share one texture.
struct TextureTicket {
    std::uint64_t number = 0;  ///< 0: none

    friend bool operator==(const TextureTicket&, const TextureTicket&) = default;
};

/// How a keeper works. All members are optional.
struct YL_API KeeperOptions {
    unsigned workers = 0;  ///< decoding threads; 0: processors less one, at least one
    Limits limits = {};
    std::vector<PictureReader> further_readers = {};  ///< your own readers, tried first
    std::shared_ptr<const Files> files = {};          ///< where paths lead; null: the disk
    /// Bytes on the device, without placeholders. Beyond it the least recently used textures lose
    /// their top levels, which come back when there is room.
    std::uint64_t memory_budget = std::numeric_limits<std::uint64_t>::max();
    std::uint64_t staging_budget = 4U << 20;   ///< bytes of one batch, the unit of work of `pump`
    std::uint64_t decoded_ahead = 256U << 20;  ///< bytes decoded before `pump` uploads them
    MissingBlocks missing_blocks = MissingBlocks::decode;
    int transcode_effort = UploadOptions{}.transcode_effort;
    bool show_early = false;  ///< show small levels while the large ones are still loading
    unsigned patience = 120;  ///< calls of `pump` after which an unused texture may lose levels so
                              ///< that a used one gets its own back
};

/// The status of one ticket.
struct KeptTexture {
    KeeperState state = KeeperState::waiting;
    float progress = 0;               ///< 0 .. 1
    std::optional<Error> error = {};  ///< of the last load; an earlier texture may still be there
    Findings findings = {};
    std::uint32_t dropped_levels = 0;  ///< top levels left out to save memory
    std::uint64_t device_bytes = 0;
};

/// The status of all textures; tickets of equal requests count once.
struct KeeperTotals {
    std::size_t tickets = 0, textures = 0;
    std::size_t waiting = 0, decoding = 0, uploading = 0, ready = 0, failed = 0, cancelled = 0;
    std::uint64_t device_bytes = 0;

    /// Whether nothing is in progress.
    [[nodiscard]] bool is_settled() const { return waiting + decoding + uploading == 0; }
};

struct PumpReport {
    std::size_t batches = 0;     ///< copied
    std::uint64_t bytes = 0;     ///< copied
    std::size_t swapped_in = 0;  ///< textures that became ready, or sharper, or coarser
    /// Tickets whose texture has changed or whose loading has failed since the last call, in rising
    /// order. Descriptors of all others stay valid.
    std::vector<TextureTicket> changed = {};
    bool is_settled = false;
};

/// Loads textures in the background. Except for decoding, all work happens inside its calls, on the
/// thread that owns the device. A failure affects only its own texture.
class YL_API TextureKeeper {
 public:
    /// The device must outlive the keeper.
    explicit TextureKeeper(TextureDevice& device, const KeeperOptions& options = {});
    ~TextureKeeper();
    TextureKeeper(const TextureKeeper&) = delete;
    TextureKeeper& operator=(const TextureKeeper&) = delete;

    /// Requests a texture; a placeholder is available immediately.
    TextureTicket request(const TextureRequest& request);
    /// Invalidates the ticket; the last ticket of a texture destroys it.
    void release(TextureTicket ticket);
    /// Stops loading for this ticket, which keeps a placeholder.
    void cancel(TextureTicket ticket);
    /// Changes the priority; among equal requests the highest counts. Ignores invalid tickets.
    void set_priority(TextureTicket ticket, int priority);

    /// The texture or its placeholder; counts as use. Valid until the next call of `pump` or
    /// `release`. Null if the ticket is invalid or the device refused even the placeholder.
    [[nodiscard]] const DeviceTexture* texture(TextureTicket ticket);
    /// The same as the type of a backend; null if it belongs to another backend.
    template <class BackendTexture>
    [[nodiscard]] const BackendTexture* texture_as(TextureTicket ticket) {
        const DeviceTexture* found = texture(ticket);
        return found != nullptr && found->backend() == BackendTexture::backend_key()
                   ? static_cast<const BackendTexture*>(found)
                   : nullptr;
    }

    /// The status of a ticket; `cancelled` if it is invalid.
    [[nodiscard]] KeptTexture status(TextureTicket ticket) const;
    /// The status of all textures.
    [[nodiscard]] KeeperTotals totals() const;
    /// Becomes ready when `pump` finds that nothing is in progress any more.
    [[nodiscard]] std::shared_future<KeeperTotals> when_settled();

    /// Uploads decoded textures batch by batch until `time` is up (at least one batch) and swaps in
    /// those that are complete. Call it once per frame.
    PumpReport pump(std::chrono::microseconds time = std::chrono::microseconds(2000));
    /// Pumps and waits for the workers until nothing is in progress.
    KeeperTotals pump_until_settled();

    /// Reloads files that have changed on disk; returns their number.
    std::size_t reload_changed();

    /// In bytes, without placeholders. A smaller budget takes effect over the next calls of `pump`.
    void set_memory_budget(std::uint64_t bytes);

 private:
    struct Work;
    std::unique_ptr<Work> work_;
};

}  // namespace yl
