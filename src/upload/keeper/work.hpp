// The keeper's inner workings, all of them on the thread that owns the device.
#pragma once

#include <list>
#include <unordered_map>

#include "upload/keeper/entry.hpp"
#include "upload/keeper/placeholders.hpp"

namespace yl {

struct TextureKeeper::Work {
    struct Ticket {
        std::uint64_t entry = 0;
        bool is_cancelled = false;
    };

    Work(TextureDevice& on, const KeeperOptions& chosen)
        : device(on), options(chosen), placeholders(on), queue(on.profile(), chosen) {}

    TextureDevice& device;
    KeeperOptions options;
    Placeholders placeholders;
    std::unordered_map<std::uint64_t, KeptEntry> entries;
    std::unordered_map<std::uint64_t, Ticket> tickets;
    std::unordered_multimap<std::string, std::uint64_t> by_name;  ///< entries of each file
    std::list<Upload> uploads;
    std::vector<std::promise<KeeperTotals>> promises;
    std::uint64_t next_number = 1;
    std::uint64_t pump_count = 0;
    std::uint64_t device_bytes = 0;  ///< of all entries and uploads
    LoadQueue queue;                 ///< the last member: its threads end first

    [[nodiscard]] KeptEntry* find(std::uint64_t entry);
    [[nodiscard]] std::uint64_t entry_for(const TextureWish& wish);
    void start_load(std::uint64_t number, std::uint32_t drop_levels);
    void stop_load(std::uint64_t number);
    void remove(std::uint64_t number);
    void fail_entry(KeptEntry& entry, Error error);
    [[nodiscard]] KeeperTotals totals() const;

    void collect();
    /// One batch, or the beginning or end of one upload. False when nothing can be done now.
    [[nodiscard]] bool step(PumpReport& report);
    [[nodiscard]] Status write_batch(Upload& upload, PumpReport& report);
    void swap_in(KeptEntry& entry, Upload& upload);
    void show_what_is_there(KeptEntry& entry, Upload& upload);

    // memory (memory.cpp)
    enum class Room { there, later, never };
    [[nodiscard]] Room make_room(Upload& upload);
    [[nodiscard]] bool shrink_others(const KeptEntry& for_entry, std::uint64_t missing,
                                     std::uint64_t used_before);
    [[nodiscard]] std::uint64_t bytes_being_freed() const;
    void release(KeptEntry& entry);
    void bring_back();
};

}  // namespace yl
