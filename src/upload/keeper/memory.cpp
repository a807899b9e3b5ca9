// The keeper's memory budget: whose top levels are left out, and when they come back.
#include <fmt/format.h>

#include <algorithm>

#include "base/attempt.hpp"
#include "upload/keeper/reduce.hpp"
#include "upload/keeper/work.hpp"

namespace yl {
namespace {

std::uint64_t bytes_with(const KeptEntry& entry, std::uint32_t dropped) {
    return shape_without_top_levels(entry.full_shape, dropped).total_bytes();
}

}  // namespace

/// What will be free when the reductions that are under way are done.
std::uint64_t TextureKeeper::Work::bytes_being_freed() const {
    std::uint64_t bytes = 0;
    for (const auto& [number, entry] : entries)
        if (entry.has_job && entry.texture != nullptr && entry.asked_drop > entry.dropped_levels)
            bytes += entry.device_bytes() - bytes_with(entry, entry.asked_drop);
    return bytes;
}

/// Sets out to free `missing` bytes by the top levels of textures that were last used before
/// `used_before`, the least used first. False when that is not to be had.
bool TextureKeeper::Work::shrink_others(const KeptEntry& for_entry, std::uint64_t missing,
                                        std::uint64_t used_before) {
    std::vector<std::pair<std::uint64_t, KeptEntry*>> candidates;
    for (auto& [number, entry] : entries)
        if (&entry != &for_entry && entry.can_shrink() && entry.last_use < used_before)
            candidates.emplace_back(number, &entry);
    std::ranges::sort(candidates, [](const auto& a, const auto& b) {
        return std::pair(a.second->last_use, a.first) < std::pair(b.second->last_use, b.first);
    });
    std::vector<std::pair<std::uint64_t, std::uint32_t>> plan;
    std::uint64_t freed = bytes_being_freed();
    for (const auto& [number, entry] : candidates) {
        if (freed >= missing)
            break;
        std::uint32_t drop = entry->dropped_levels;
        std::uint64_t gain = 0;
        while (drop + 1 < entry->full_shape.levels && freed + gain < missing) {
            ++drop;
            gain = entry->device_bytes() - bytes_with(*entry, drop);
        }
        freed += gain;
        plan.emplace_back(number, drop);
    }
    if (freed < missing)
        return false;
    for (const auto& [number, drop] : plan)
        start_load(number, drop);
    return true;
}

void TextureKeeper::Work::release(KeptEntry& entry) {
    device_bytes -= entry.device_bytes();
    entry.texture.reset();
}

/// Room for an upload that has not begun: there already, to be had later, or by leaving out top
/// levels of its own.
TextureKeeper::Work::Room TextureKeeper::Work::make_room(Upload& upload) {
    KeptEntry& entry = *find(upload.texture);
    const std::uint64_t wanted = upload.loaded.texture.shape().total_bytes();
    const auto free_now = [&] {
        return options.memory_budget - std::min(device_bytes, options.memory_budget);
    };
    if (wanted <= free_now())
        return Room::there;
    if (entry.texture != nullptr && wanted <= free_now() + entry.device_bytes()) {
        release(entry);  // a reduction must not need more memory while it lasts
        return Room::there;
    }
    const std::uint64_t missing = wanted - free_now();
    if (bytes_being_freed() >= missing || shrink_others(entry, missing, entry.last_use + 1))
        return Room::later;
    if (entry.texture != nullptr)
        release(entry);
    const auto drop = levels_to_drop(upload.loaded.texture.shape(), free_now());
    if (!drop)
        return bytes_being_freed() > 0 ? Room::later : Room::never;
    auto rest = without_top_levels(upload.loaded.texture, *drop);
    if (!rest)
        return Room::never;
    const PrepareOptions prepare{
        .wish = {.smallest_first = true, .staging_budget = options.staging_budget},
        .sampler = upload.loaded.prepared.request.sampler,
        .role = entry.wish.bake.role,
        .label = upload.loaded.prepared.request.label};
    rest->traits.swizzle = upload.loaded.prepared.plan.swizzle;
    auto prepared = prepare_upload(*rest, device.profile(), prepare);
    if (!prepared)
        return Room::never;
    upload.loaded.texture = std::move(*rest);
    upload.loaded.prepared = std::move(*prepared);
    upload.loaded.dropped_levels += *drop;
    return Room::there;
}

/// The level above for the texture that was used last of those that lack one, if there is room, or
/// if others have long not been used.
void TextureKeeper::Work::bring_back() {
    std::uint64_t best = 0;
    const KeptEntry* best_entry = nullptr;
    for (const auto& [number, entry] : entries) {
        const bool lacks_levels = entry.can_reload() && entry.dropped_levels > 0;
        if (lacks_levels &&
            (best_entry == nullptr ||
             std::pair(entry.last_use, best) > std::pair(best_entry->last_use, number))) {
            best = number;
            best_entry = &entry;
        }
    }
    if (best_entry == nullptr)
        return;
    const std::uint64_t wanted = bytes_with(*best_entry, best_entry->dropped_levels - 1);
    const std::uint64_t free =
        options.memory_budget - std::min(device_bytes, options.memory_budget);
    if (wanted <= free) {
        start_load(best, best_entry->dropped_levels - 1);
        return;
    }
    const std::uint64_t patience = std::min<std::uint64_t>(options.patience, pump_count);
    const std::uint64_t unused_since = pump_count - patience;
    if (best_entry->last_use >= unused_since)
        static_cast<void>(shrink_others(*best_entry, wanted - free,
                                        std::min(unused_since, best_entry->last_use)));
}

}  // namespace yl
