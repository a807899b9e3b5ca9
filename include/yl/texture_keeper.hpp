// Many textures by file name: placeholders at once, the real ones when they are there.
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
#include <yl/bake.hpp>
#include <yl/bytes.hpp>
#include <yl/upload.hpp>

namespace yl {

enum class KeeperState : std::uint8_t {
    waiting,    ///< for a worker thread
    decoding,   ///< by a worker thread
    uploading,  ///< or waiting for room on the device
    ready,
    failed,
    cancelled,
};

/// "waiting", "decoding" ...
[[nodiscard]] YL_API std::string_view name(KeeperState state);

/// What a placeholder has to look like to a shader: a sampler of cubes takes no flat texture.
enum class TextureKind : std::uint8_t { flat, flat_array, cube, cube_array, volume, line };

/// The kind of a texture of this shape.
[[nodiscard]] YL_API TextureKind kind_of(const TextureShape& shape);
/// "2D", "cube" ...
[[nodiscard]] YL_API std::string_view name(TextureKind kind);

/// A texture that is wanted: a picture file, which is baked, or a texture file, which is taken as
/// it is.
struct YL_API TextureRequest {
    std::filesystem::path file = {};
    /// The file's content, when it is in memory already; `file` is then just its name.
    SharedBytes bytes = {};
    BakeOptions bake = BakeOptions();  ///< role and more
    /// The normal map that a roughness map makes up for (`BakeOptions::normals`), by its file or
    /// its content. One that cannot be read is a finding, and the roughness stays as it is.
    std::filesystem::path normals_file = {};
    SharedBytes normals_bytes = {};
    std::optional<Sampler> sampler = {};  ///< the one that the texture carries, when left out
    TextureKind kind = TextureKind::flat;
    int priority = 0;  ///< of those that wait, the highest is decoded first

    /// Whether one texture serves both: equal files or contents, and equal settings.
    friend bool operator==(const TextureRequest& a, const TextureRequest& b);
};

/// Stands for one request. Tickets of equal requests share one texture.
struct TextureTicket {
    std::uint64_t number = 0;  ///< 0: none

    friend bool operator==(const TextureTicket&, const TextureTicket&) = default;
};

struct YL_API KeeperOptions {
    unsigned workers = 0;  ///< threads that decode; 0: one for each processor but one, at least one
    Limits limits = {};
    std::vector<PictureReader> further_readers = {};  ///< of the program's own, asked first
    /// Bytes on the device, without placeholders. Beyond it the top levels of what was least used
    /// are left out; they come back when there is room.
    std::uint64_t memory_budget = std::numeric_limits<std::uint64_t>::max();
    std::uint64_t staging_budget = 4U
                                   << 20;  ///< bytes of one batch: the step in which `pump` works
    std::uint64_t decoded_ahead = 256U << 20;  ///< bytes that workers may decode ahead of `pump`
    bool show_early = false;  ///< a texture shows its small levels while the large ones follow
    unsigned patience = 120;  ///< calls of `pump` after which an unused texture may be reduced so
                              ///< that a used one gets its levels back
};

/// How it stands with one ticket.
struct KeptTexture {
    KeeperState state = KeeperState::waiting;
    float progress = 0;  ///< 0 .. 1
    std::optional<Error> error =
        {};  ///< of the last load; the texture before it may still be there
    Findings findings = {};
    std::uint32_t dropped_levels = 0;  ///< top levels that are left out for want of memory
    std::uint64_t device_bytes = 0;
};

/// How it stands with all textures, tickets of equal requests counted once.
struct KeeperTotals {
    std::size_t tickets = 0, textures = 0;
    std::size_t waiting = 0, decoding = 0, uploading = 0, ready = 0, failed = 0, cancelled = 0;
    std::uint64_t device_bytes = 0;

    /// Whether nothing is under way.
    [[nodiscard]] bool is_settled() const { return waiting + decoding + uploading == 0; }
};

struct PumpReport {
    std::size_t batches = 0;     ///< copied
    std::uint64_t bytes = 0;     ///< copied
    std::size_t swapped_in = 0;  ///< textures that became ready, or sharper, or coarser
    /// Tickets that have another texture now, or whose loading failed, since the call before; in
    /// rising order. Descriptors of all others are still good.
    std::vector<TextureTicket> changed = {};
    bool is_settled = false;
};

/// Loads textures in the background. Everything but the decoding happens on the thread that owns
/// the device, inside the calls; nothing that fails stops the others.
class YL_API TextureKeeper {
 public:
    /// The device must outlive the keeper.
    explicit TextureKeeper(TextureDevice& device, const KeeperOptions& options = {});
    ~TextureKeeper();
    TextureKeeper(const TextureKeeper&) = delete;
    TextureKeeper& operator=(const TextureKeeper&) = delete;

    /// Asks for a texture; at once there is a placeholder for it.
    TextureTicket request(const TextureRequest& request);
    /// The ticket is void afterwards; the last one of a texture takes it along.
    void release(TextureTicket ticket);
    /// Stops loading for this ticket; the ticket stays, with a placeholder.
    void cancel(TextureTicket ticket);
    /// What is needed sooner: of equal requests the highest counts. Nothing for void tickets.
    void set_priority(TextureTicket ticket, int priority);

    /// The texture, or its placeholder. Counts as use. Valid until the next call of `pump` or
    /// `release`. Null when the ticket is void, or when the device refused even the placeholder.
    [[nodiscard]] const DeviceTexture* texture(TextureTicket ticket);
    /// The same as a backend's own type; null where it is of another backend.
    template <class BackendTexture>
    [[nodiscard]] const BackendTexture* texture_as(TextureTicket ticket) {
        const DeviceTexture* found = texture(ticket);
        return found != nullptr && found->backend() == BackendTexture::backend_key()
                   ? static_cast<const BackendTexture*>(found)
                   : nullptr;
    }

    /// How it stands with one ticket; `cancelled` for a void one.
    [[nodiscard]] KeptTexture status(TextureTicket ticket) const;
    /// How it stands with all of them.
    [[nodiscard]] KeeperTotals totals() const;
    /// Ready when a call of `pump` finds that nothing is under way any more.
    [[nodiscard]] std::shared_future<KeeperTotals> when_settled();

    /// Copies what has been decoded, batch by batch, until `time` is over (one batch at least);
    /// swaps in what is complete. To be called once a frame.
    PumpReport pump(std::chrono::microseconds time = std::chrono::microseconds(2000));
    /// Pumps, and waits for the workers, until all is settled.
    KeeperTotals pump_until_settled();

    /// Loads again what has changed on disk since it was read; gives the number of such files.
    std::size_t reload_changed();

    /// In bytes, without placeholders. A smaller one takes effect with the next calls of `pump`.
    void set_memory_budget(std::uint64_t bytes);

 private:
    struct Work;
    std::unique_ptr<Work> work_;
};

/// The colour of placeholders: a flat normal for normal maps, otherwise gray while waiting and a
/// warm orange where something failed. RGBA codes.
[[nodiscard]] YL_API std::array<std::uint8_t, 4> placeholder_color(KeeperState state, Role role);

}  // namespace yl
