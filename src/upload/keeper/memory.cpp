// The keeper's memory budget: whose top levels are left out, and when they come back.
#include <fmt/format.h>

#include <algorithm>

#include <yl/status_macros.hpp>
#include "upload/keeper/reduce.hpp"
#include "upload/keeper/work.hpp"

namespace yl {
namespace {

std::uint64_t bytes_with(const KeptEntry& entry, std::uint32_t dropped) {
    return shape_without_top_levels(entry.full_shape, dropped).total_bytes();
}

}  // namespace

void TextureKeeper::Work::file(std::uint64_t number) {
    KeptEntry& entry = entries.at(number);
    const auto filed = std::exchange(entry.filed, std::nullopt);
    if (filed) {
        by_use.erase({(*filed)[0], number});
        by_size.erase({(*filed)[1], number});
    }
    if (!entry.can_shrink())
        return;
    entry.filed = {entry.last_use, entry.device_bytes()};
    by_use.insert({entry.last_use, number});
    by_size.insert({entry.device_bytes(), number});
}

std::uint64_t TextureKeeper::Work::free_bytes() const {
    return options.memory_budget - std::min(device_bytes, options.memory_budget);
}

/// What each texture may take where all are used alike.
std::uint64_t TextureKeeper::Work::share() const {
    return options.memory_budget / std::max<std::size_t>(entries.size(), 1);
}

/// Sets out to free `missing` bytes by the top levels of textures that were last used before
/// `used_before`, the least used first. False when that is not possible, and when more textures
/// than `most_refiled` have been used since they were filed.
bool TextureKeeper::Work::shrink_others(const KeptEntry& for_entry, std::uint64_t missing,
                                        std::uint64_t used_before, std::size_t most_refiled) {
    std::vector<std::pair<std::uint64_t, std::uint32_t>> plan;
    std::uint64_t freed = being_freed;
    for (auto place = by_use.begin(); place != by_use.end() && freed < missing;) {
        const auto [used, number] = *place;
        const KeptEntry& entry = entries.at(number);
        if (entry.last_use != used) {  // used since it was filed
            if (most_refiled-- == 0)
                return false;
            file(number);
            place = by_use.lower_bound({used, number});
            continue;
        }
        ++place;
        if (used >= used_before)
            break;
        if (&entry == &for_entry)
            continue;
        std::uint32_t drop = entry.dropped_levels;
        std::uint64_t gain = 0;
        while (drop + 1 < entry.full_shape.levels && freed + gain < missing) {
            ++drop;
            gain = entry.device_bytes() - bytes_with(entry, drop);
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

/// The same by textures that have more than their share, the largest first.
bool TextureKeeper::Work::shrink_to_share(std::uint64_t missing) {
    std::vector<std::pair<std::uint64_t, std::uint32_t>> plan;
    std::uint64_t freed = being_freed;
    for (auto place = by_size.rbegin();
         place != by_size.rend() && (*place)[0] > share() && freed < missing; ++place) {
        const std::uint64_t number = (*place)[1];
        const KeptEntry& entry = entries.at(number);
        const std::uint32_t drop =
            levels_to_drop(entry.full_shape, share()).value_or(entry.full_shape.levels - 1);
        if (drop <= entry.dropped_levels)
            continue;
        freed += entry.device_bytes() - bytes_with(entry, drop);
        plan.emplace_back(number, drop);
    }
    for (const auto& [number, drop] : plan)
        start_load(number, drop);
    return freed >= missing;
}

void TextureKeeper::Work::release(std::uint64_t number) {
    KeptEntry& entry = entries.at(number);
    device_bytes -= entry.device_bytes();
    has_new_room = true;
    if (entry.texture != nullptr)
        note_change(entry);
    entry.texture.reset();
    file(number);
}

/// Room for an upload that has not begun: there already, free later, or by leaving out top
/// levels of its own.
TextureKeeper::Work::Room TextureKeeper::Work::make_room(Upload& upload) {
    KeptEntry& entry = *find(upload.texture);
    const std::uint64_t wanted = upload.loaded.texture.shape().total_bytes();
    if (wanted <= free_bytes())
        return Room::there;
    if (entry.texture != nullptr && wanted <= free_bytes() + entry.device_bytes()) {
        release(upload.texture);  // a reduction must not need more memory while it lasts
        return Room::there;
    }
    const std::uint64_t missing = wanted - free_bytes();
    if (being_freed >= missing || shrink_others(entry, missing, entry.last_use))
        return Room::later;
    return make_room_in_share(upload);
}

/// Nobody is used less: what comes and what is there get the same share.
TextureKeeper::Work::Room TextureKeeper::Work::make_room_in_share(Upload& upload) {
    queue.set_most_bytes(share());
    const TextureShape& shape = upload.loaded.texture.shape();
    const std::uint64_t aim = std::max(share(), free_bytes());
    const std::uint32_t smallest = shape.levels - 1;
    const std::uint32_t drop = levels_to_drop(shape, aim).value_or(smallest);
    const std::uint64_t needed = shape_without_top_levels(shape, drop).total_bytes();
    if (needed > free_bytes() && shrink_to_share(needed - free_bytes()))
        return Room::later;
    if (KeptEntry& entry = *find(upload.texture); entry.texture != nullptr)
        release(upload.texture);
    const auto fitting = levels_to_drop(shape, free_bytes());
    if (!fitting)
        return being_freed > 0 ? Room::later : Room::never;
    return leave_out(upload, std::max(*fitting, std::min(drop, smallest))) ? Room::there
                                                                           : Room::never;
}

/// Top levels of an upload that has not begun.
bool TextureKeeper::Work::leave_out(Upload& upload, std::uint32_t levels) {
    auto rest = without_top_levels(upload.loaded.texture, levels);
    if (!rest)
        return false;
    const KeptEntry& entry = *find(upload.texture);
    const UploadOptions prepare{.smallest_first = true,
                                .staging_budget = options.staging_budget,
                                .sampler = upload.loaded.prepared.desc.sampler,
                                .role = entry.request.bake.role,
                                .label = upload.loaded.prepared.desc.label};
    rest->metadata.swizzle = upload.loaded.prepared.plan.swizzle;
    auto prepared = prepare_upload(*rest, device.profile(), prepare);
    if (!prepared)
        return false;
    upload.loaded.texture = std::move(*rest);
    upload.loaded.prepared = std::move(*prepared);
    upload.loaded.dropped_levels += levels;
    return true;
}

bool TextureKeeper::Work::is_time_to_bring_back() const {
    const std::uint64_t now_and_then = std::max(options.patience / 8, 1U);
    return has_new_room || pump_count % now_and_then == 0;
}

/// The level above for textures that lack one, those first that were used last, as long as there
/// is room; or, for the first of them, if others have long not been used.
void TextureKeeper::Work::bring_back() {
    has_new_room = false;
    std::vector<std::array<std::uint64_t, 2>> lacking;
    for (const auto& [number, entry] : entries)
        if (entry.can_reload() && entry.dropped_levels > 0)
            lacking.push_back({entry.last_use, number});
    if (lacking.empty())
        return;
    std::ranges::sort(lacking, std::greater<>());
    const auto wanted = [&](std::uint64_t number) {
        const KeptEntry& entry = entries.at(number);
        return bytes_with(entry, entry.dropped_levels - 1);
    };
    std::uint64_t free = free_bytes();
    for (const auto& [used, number] : lacking) {
        const std::uint64_t bytes = wanted(number);
        if (bytes > free)
            break;
        free -= bytes;
        start_load(number, entries.at(number).dropped_levels - 1);
    }
    const std::uint64_t first = lacking[0][1];
    const KeptEntry& best = entries.at(first);
    if (best.has_job)
        return;
    const std::uint64_t patience = std::min<std::uint64_t>(options.patience, pump_count);
    const std::uint64_t unused_since = pump_count - patience;
    if (best.last_use >= unused_since)
        static_cast<void>(shrink_others(best, wanted(first) - free_bytes(),
                                        std::min(unused_since, best.last_use)));
}

}  // namespace yl
