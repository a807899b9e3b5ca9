// The keeper's inner workings, all of them on the thread that owns the device.
#pragma once

#include <list>
#include <set>
#include <unordered_map>

#include "upload/keeper/entry.hpp"
#include "upload/keeper/placeholders.hpp"

namespace yl {

struct TextureKeeper::Work {
    struct Ticket {
        std::uint64_t entry = 0;
        bool is_cancelled = false;
        int priority = 0;
    };

    Work(TextureDevice& on, const KeeperOptions& chosen)
        : device(on), options(chosen), placeholders(on), queue(on.profile(), chosen) {}

    TextureDevice& device;
    KeeperOptions options;
    Placeholders placeholders;
    std::unordered_map<std::uint64_t, KeptEntry> entries;
    std::unordered_map<std::uint64_t, Ticket> tickets;
    std::unordered_multimap<std::string, std::uint64_t> by_name;  ///< entries of each file
    std::list<Upload> uploads;     ///< in the order in which they begin
    std::list<Upload> reductions;  ///< of textures that give up levels; they come first
    std::unordered_map<std::uint64_t, std::list<Upload>::iterator> upload_of;  ///< each entry's
    /// Textures that can shrink, by use and by size. A use may be older than the texture's last
    /// one, which is put right when it is met.
    std::set<std::array<std::uint64_t, 2>> by_use, by_size;
    std::uint64_t being_freed = 0;       ///< by reductions that are under way
    std::vector<std::uint64_t> changed;  ///< entries that `take_changed` tells of
    bool has_new_room = true;            ///< since `bring_back` looked the last time
    std::vector<std::promise<KeeperTotals>> promises;
    std::uint64_t next_number = 1;
    std::uint64_t pump_count = 0;
    std::uint64_t device_bytes = 0;  ///< of all entries and uploads
    std::uint64_t held_bytes = 0;    ///< of all uploads, in this program's memory
    LoadQueue queue;                 ///< the last member: its threads end first

    [[nodiscard]] KeptEntry* find(std::uint64_t entry);
    [[nodiscard]] std::uint64_t entry_for(const TextureRequest& request);
    void start_load(std::uint64_t number, std::optional<std::uint32_t> drop_levels);
    void end_job(KeptEntry& entry);
    void stop_load(std::uint64_t number);
    void remove(std::uint64_t number);
    void fail_entry(KeptEntry& entry, Error error);
    [[nodiscard]] KeeperTotals totals() const;
    void note_change(KeptEntry& entry);
    [[nodiscard]] std::vector<TextureTicket> take_changed();

    [[nodiscard]] std::list<Upload>& list_of(const Upload& upload) {
        return upload.is_reduction ? reductions : uploads;
    }
    void erase(std::list<Upload>::iterator upload);
    [[nodiscard]] bool is_settled() const {
        return uploads.empty() && reductions.empty() && queue.is_idle();
    }

    void collect();
    /// One batch, or the beginning or end of one upload. False when nothing can be done now.
    [[nodiscard]] bool step(PumpReport& report);
    enum class Step { done, waits };
    [[nodiscard]] Step step(std::list<Upload>::iterator upload, PumpReport& report);
    [[nodiscard]] Status write_batch(Upload& upload, PumpReport& report);
    void swap_in(KeptEntry& entry, Upload& upload);
    void show_what_is_there(KeptEntry& entry, Upload& upload);

    // memory (memory.cpp)
    enum class Room { there, later, never };
    [[nodiscard]] Room make_room(Upload& upload);
    [[nodiscard]] Room make_room_in_share(Upload& upload);
    [[nodiscard]] bool leave_out(Upload& upload, std::uint32_t levels);
    /// Where all textures are used all the time, all of them are filed under an old use: with each
    /// call some are put right, so that no call takes long and what is not used comes to the front.
    static constexpr std::size_t refiled_at_once = 64;
    [[nodiscard]] bool shrink_others(const KeptEntry& for_entry, std::uint64_t missing,
                                     std::uint64_t used_before,
                                     std::size_t most_refiled = refiled_at_once);
    [[nodiscard]] bool shrink_to_share(std::uint64_t missing);
    [[nodiscard]] std::uint64_t free_bytes() const;
    [[nodiscard]] std::uint64_t share() const;
    void release(std::uint64_t number);
    /// Files a texture that can shrink, and no other.
    void file(std::uint64_t number);
    void bring_back();
    /// Whether it is time for that: when there is new room, and now and then because others may not
    /// be used any more. Not with every call, since it looks at all textures.
    [[nodiscard]] bool is_time_to_bring_back() const;
};

}  // namespace yl
