#include <fmt/format.h>

#include <algorithm>
#include <array>

#include <yl/status_macros.hpp>
#include "base/bytes.hpp"
#include "upload/keeper/work.hpp"

namespace yl {
namespace {

std::string name_of(const std::filesystem::path& file, const SharedBytes& bytes) {
    if (bytes) {
        const std::string_view text = as_text(bytes.bytes());
        return fmt::format("{} bytes, {:x}", text.size(), std::hash<std::string_view>{}(text));
    }
    std::error_code error;
    const auto path = std::filesystem::weakly_canonical(file, error);
    return (error ? file : path).string();
}

/// Under what name equal requests are found again.
std::string name_of(const TextureRequest& request) {
    return name_of(request.file, request.bytes);
}

bool is_same_source(const std::filesystem::path& file_a, const SharedBytes& a,
                    const std::filesystem::path& file_b, const SharedBytes& b) {
    if (!a && !b)
        return name_of(file_a, a) == name_of(file_b, b);
    return a && b && std::ranges::equal(a.bytes(), b.bytes());
}

}  // namespace

bool operator==(const TextureRequest& a, const TextureRequest& b) {
    return is_same_source(a.file, a.bytes, b.file, b.bytes) &&
           is_same_source(a.normals_file, a.normals_bytes, b.normals_file, b.normals_bytes) &&
           a.bake == b.bake && a.sampler == b.sampler && a.kind == b.kind;
}

namespace {

std::optional<FileStamp> stamp_of(const std::filesystem::path& file) {
    std::error_code error;
    FileStamp stamp;
    stamp.time = std::filesystem::last_write_time(file, error);
    if (error)
        return std::nullopt;
    stamp.size = std::filesystem::file_size(file, error);
    return error ? std::nullopt : std::optional(stamp);
}

}  // namespace

std::array<std::optional<FileStamp>, 2> stamps_of(const TextureRequest& request) {
    std::array<std::optional<FileStamp>, 2> stamps;
    if (!request.bytes)
        stamps[0] = stamp_of(request.file);
    if (!request.normals_bytes && !request.normals_file.empty())
        stamps[1] = stamp_of(request.normals_file);
    return stamps;
}

KeptEntry* TextureKeeper::Work::find(std::uint64_t entry) {
    const auto place = entries.find(entry);
    return place != entries.end() ? &place->second : nullptr;
}

std::uint64_t TextureKeeper::Work::entry_for(const TextureRequest& request) {
    const std::string key = name_of(request);
    const auto [begin, end] = by_name.equal_range(key);
    for (auto place = begin; place != end; ++place)
        if (entries.at(place->second).request == request)
            return place->second;
    const std::uint64_t number = next_number++;
    by_name.emplace(key, number);
    KeptEntry& entry = entries[number];
    entry.number = number;
    entry.request = request;
    entry.name = key;
    entry.last_use = pump_count;
    start_load(number, std::nullopt);
    return number;
}

/// Without a number of levels to leave out, that is left to the memory there is.
void TextureKeeper::Work::start_load(std::uint64_t number,
                                     std::optional<std::uint32_t> drop_levels) {
    KeptEntry& entry = entries.at(number);
    stop_load(number);
    entry.stamps = stamps_of(entry.request);
    entry.has_job = true;
    if (entry.texture == nullptr) {
        entry.state = KeeperState::waiting;
        entry.progress = 0;
    } else if (drop_levels && *drop_levels > entry.dropped_levels) {
        entry.freeing = entry.device_bytes() -
                        shape_without_top_levels(entry.full_shape, *drop_levels).total_bytes();
        being_freed += entry.freeing;
    }
    file(number);
    queue.add({.texture = number,
               .generation = entry.generation,
               .request = entry.request,
               .drop_levels = drop_levels.value_or(0),
               .has_choice = !drop_levels,
               .comes_first = entry.freeing > 0});
}

void TextureKeeper::Work::end_job(KeptEntry& entry) {
    entry.has_job = false;
    has_new_room = true;
    being_freed -= std::exchange(entry.freeing, 0);
}

void TextureKeeper::Work::erase(std::list<Upload>::iterator upload) {
    held_bytes -= upload->held_bytes;
    upload_of.erase(upload->texture);
    list_of(*upload).erase(upload);
}

void TextureKeeper::Work::stop_load(std::uint64_t number) {
    KeptEntry& entry = entries.at(number);
    ++entry.generation;
    end_job(entry);
    queue.forget(number);
    if (const auto found = upload_of.find(number); found != upload_of.end()) {
        const auto upload = found->second;
        if (upload->is_begun())
            device_bytes -= upload->target->shape().total_bytes();
        erase(upload);
    }
    file(number);
}

void TextureKeeper::Work::remove(std::uint64_t number) {
    stop_load(number);
    release(number);
    const auto [begin, end] = by_name.equal_range(entries.at(number).name);
    for (auto place = begin; place != end; ++place)
        if (place->second == number) {
            by_name.erase(place);
            break;
        }
    entries.erase(number);
}

void TextureKeeper::Work::fail_entry(KeptEntry& entry, Error error) {
    end_job(entry);
    entry.error = std::move(error);
    // What a reload could not replace stays as it is.
    entry.state = entry.texture != nullptr ? KeeperState::ready : KeeperState::failed;
    note_change(entry);
}

/// Results of workers become uploads, or errors.
void TextureKeeper::Work::collect() {
    for (LoadResult& result : queue.collect()) {
        KeptEntry* entry = find(result.texture);
        if (entry == nullptr || entry->generation != result.generation)
            continue;
        if (!result.loaded) {
            fail_entry(*entry, result.loaded.error());
            file(result.texture);
            continue;
        }
        entry->full_shape = result.loaded->full_shape;
        if (entry->texture == nullptr)
            entry->state = KeeperState::uploading;
        const bool is_reduction = entry->freeing > 0;
        std::list<Upload>& list = is_reduction ? reductions : uploads;
        const std::uint64_t bytes = result.bytes();
        list.push_back({.texture = result.texture,
                        .loaded = std::move(*result.loaded),
                        .held_bytes = bytes,
                        .is_reduction = is_reduction});
        held_bytes += bytes;
        upload_of[result.texture] = std::prev(list.end());
    }
}

Status TextureKeeper::Work::write_batch(Upload& upload, PumpReport& report) {
    const PreparedUpload& prepared = upload.loaded.prepared;
    if (!upload.is_begun()) {
        YL_TRY(upload.target, device.reserve(prepared.desc));
        device_bytes += upload.target->shape().total_bytes();
    }
    YL_CHECK(upload.target->write(prepared.plan, upload.next_batch, upload.loaded.texture));
    const std::uint64_t bytes = prepared.plan.batches[upload.next_batch].bytes;
    ++upload.next_batch;
    ++report.batches;
    report.bytes += bytes;
    upload.bytes_done += bytes;
    return {};
}

/// What frees memory comes first. Whoever waits for memory lets nobody overtake, so that a step
/// takes no longer the more textures wait.
bool TextureKeeper::Work::step(PumpReport& report) {
    for (std::list<Upload>* list : {&reductions, &uploads})
        if (!list->empty() && step(list->begin(), report) == Step::done)
            return true;
    return false;
}

TextureKeeper::Work::Step TextureKeeper::Work::step(std::list<Upload>::iterator upload,
                                                    PumpReport& report) {
    const std::uint64_t number = upload->texture;
    KeptEntry& entry = entries.at(number);
    const Room room = upload->is_begun() ? Room::there : make_room(*upload);
    if (room == Room::later)
        return Step::waits;
    const UploadPlan& plan = upload->loaded.prepared.plan;
    Status status = room == Room::there
                        ? write_batch(*upload, report)
                        : Status(fail_at({ErrorKind::limit,
                                          fmt::format("even its smallest level does not fit the "
                                                      "memory budget of {} bytes",
                                                      options.memory_budget)},
                                         entry.request.file.string()));
    const bool is_whole = status && upload->next_batch == plan.batches.size();
    if (is_whole)
        status = upload->target->set_level_range(LevelRange::of(plan.shape));
    if (!status) {
        if (upload->is_begun())
            device_bytes -= upload->target->shape().total_bytes();
        erase(upload);
        Error error = status.error();
        if (error.place.empty())
            error.place = entry.request.file.string();
        fail_entry(entry, std::move(error));
    } else if (is_whole) {
        swap_in(entry, *upload);
        ++report.swapped_in;
        erase(upload);
    } else {
        if (entry.texture == nullptr)
            entry.progress =
                static_cast<float>(upload->bytes_done) / static_cast<float>(plan.staging_bytes);
        show_what_is_there(entry, *upload);
    }
    file(number);
    return Step::done;
}

void TextureKeeper::Work::swap_in(KeptEntry& entry, Upload& upload) {
    release(upload.texture);
    entry.texture = std::move(upload.target);
    entry.dropped_levels = upload.loaded.dropped_levels;
    entry.findings = std::move(upload.loaded.prepared.findings);
    entry.state = KeeperState::ready;
    entry.error.reset();
    entry.progress = 1;
    note_change(entry);
    end_job(entry);
}

/// With `show_early`: levels that are complete, the smallest first.
void TextureKeeper::Work::show_what_is_there(KeptEntry& entry, Upload& upload) {
    if (!options.show_early || entry.texture != nullptr)
        return;
    const UploadPlan& plan = upload.loaded.prepared.plan;
    const UploadBatch& next = plan.batches[upload.next_batch];
    const std::uint32_t incomplete = plan.regions[next.first_region].level;
    if (incomplete + 1 >= plan.shape.levels || incomplete + 1 == upload.target->level_range().first)
        return;
    if (upload.target->set_level_range({.first = incomplete + 1}))
        note_change(entry);
}

void TextureKeeper::Work::note_change(KeptEntry& entry) {
    if (!std::exchange(entry.is_changed, true))
        changed.push_back(entry.number);
}

std::vector<TextureTicket> TextureKeeper::Work::take_changed() {
    std::vector<TextureTicket> told;
    for (const std::uint64_t number : std::exchange(changed, {})) {
        KeptEntry* entry = find(number);
        if (entry == nullptr || !std::exchange(entry->is_changed, false))
            continue;
        for (const std::uint64_t ticket : entry->ticket_numbers)
            if (!tickets.at(ticket).is_cancelled)
                told.push_back({ticket});
    }
    std::ranges::sort(told, {}, &TextureTicket::number);
    return told;
}

KeeperTotals TextureKeeper::Work::totals() const {
    KeeperTotals totals;
    totals.tickets = tickets.size();
    totals.textures = entries.size();
    totals.device_bytes = device_bytes;
    for (const auto& [number, entry] : entries) {
        const bool is_decoding = entry.state == KeeperState::waiting && queue.is_decoding(number);
        switch (is_decoding ? KeeperState::decoding : entry.state) {
            case KeeperState::waiting:
                ++totals.waiting;
                break;
            case KeeperState::decoding:
                ++totals.decoding;
                break;
            case KeeperState::uploading:
                ++totals.uploading;
                break;
            case KeeperState::ready:
                ++totals.ready;
                break;
            case KeeperState::failed:
                ++totals.failed;
                break;
            case KeeperState::cancelled:
                ++totals.cancelled;
                break;
        }
    }
    return totals;
}

TextureKeeper::TextureKeeper(TextureDevice& device, const KeeperOptions& options)
    : work_(std::make_unique<Work>(device, options)) {}

TextureKeeper::~TextureKeeper() = default;

TextureTicket TextureKeeper::request(const TextureRequest& request) {
    const std::uint64_t number = work_->entry_for(request);
    KeptEntry& entry = work_->entries.at(number);
    ++entry.tickets;
    if (entry.state == KeeperState::cancelled)
        work_->start_load(number, std::nullopt);
    if (request.priority > entry.request.priority) {
        entry.request.priority = request.priority;
        work_->queue.set_priority(number, request.priority);
    }
    const TextureTicket ticket{work_->next_number++};
    work_->tickets[ticket.number] = {number, false, request.priority};
    entry.ticket_numbers.push_back(ticket.number);
    return ticket;
}

void TextureKeeper::cancel(TextureTicket ticket) {
    const auto place = work_->tickets.find(ticket.number);
    if (place == work_->tickets.end() || place->second.is_cancelled)
        return;
    place->second.is_cancelled = true;
    KeptEntry& entry = work_->entries.at(place->second.entry);
    if (--entry.tickets > 0)
        return;
    work_->stop_load(place->second.entry);
    work_->release(place->second.entry);
    entry.state = KeeperState::cancelled;
}

void TextureKeeper::set_priority(TextureTicket ticket, int priority) {
    const auto place = work_->tickets.find(ticket.number);
    if (place == work_->tickets.end())
        return;
    place->second.priority = priority;
    KeptEntry& entry = work_->entries.at(place->second.entry);
    int highest = priority;
    for (const std::uint64_t number : entry.ticket_numbers)
        if (const auto& other = work_->tickets.at(number); !other.is_cancelled)
            highest = std::max(highest, other.priority);
    entry.request.priority = highest;
    work_->queue.set_priority(place->second.entry, highest);
}

void TextureKeeper::release(TextureTicket ticket) {
    const auto place = work_->tickets.find(ticket.number);
    if (place == work_->tickets.end())
        return;
    const std::uint64_t number = place->second.entry;
    cancel(ticket);
    work_->tickets.erase(place);
    KeptEntry& entry = work_->entries.at(number);
    std::erase(entry.ticket_numbers, ticket.number);
    if (entry.ticket_numbers.empty())
        work_->remove(number);
}

const DeviceTexture* TextureKeeper::texture(TextureTicket ticket) {
    const auto place = work_->tickets.find(ticket.number);
    if (place == work_->tickets.end())
        return nullptr;
    KeptEntry& entry = work_->entries.at(place->second.entry);
    const Role role = entry.request.bake.role.value_or(Role::color);
    if (place->second.is_cancelled)
        return work_->placeholders.get(KeeperState::cancelled, role, entry.request.kind);
    entry.last_use = work_->pump_count;
    if (entry.texture != nullptr)
        return entry.texture.get();
    const auto upload = work_->upload_of.find(place->second.entry);
    if (work_->options.show_early && upload != work_->upload_of.end() &&
        upload->second->is_begun() && upload->second->target->level_range().first > 0)
        return upload->second->target.get();
    return work_->placeholders.get(entry.state, role, entry.request.kind);
}

KeptTexture TextureKeeper::status(TextureTicket ticket) const {
    KeptTexture kept;
    const auto place = work_->tickets.find(ticket.number);
    if (place == work_->tickets.end()) {
        kept.state = KeeperState::cancelled;
        return kept;
    }
    const KeptEntry& entry = work_->entries.at(place->second.entry);
    kept.state = place->second.is_cancelled ? KeeperState::cancelled : entry.state;
    if (kept.state == KeeperState::waiting && work_->queue.is_decoding(place->second.entry))
        kept.state = KeeperState::decoding;
    kept.progress = entry.progress;
    kept.error = entry.error;
    kept.findings = entry.findings;
    kept.dropped_levels = entry.dropped_levels;
    kept.device_bytes = entry.device_bytes();
    return kept;
}

KeeperTotals TextureKeeper::totals() const {
    return work_->totals();
}

std::shared_future<KeeperTotals> TextureKeeper::when_settled() {
    return work_->promises.emplace_back().get_future().share();
}

PumpReport TextureKeeper::pump(std::chrono::microseconds time) {
    const auto begin = std::chrono::steady_clock::now();
    ++work_->pump_count;
    PumpReport report;
    work_->collect();
    while (work_->step(report) && std::chrono::steady_clock::now() - begin < time) {
    }
    work_->queue.set_held_bytes(work_->held_bytes);
    if (work_->is_settled() && work_->is_time_to_bring_back())
        work_->bring_back();
    report.changed = work_->take_changed();
    report.is_settled = work_->is_settled();
    if (report.is_settled) {
        for (std::promise<KeeperTotals>& promise : work_->promises)
            promise.set_value(work_->totals());
        work_->promises.clear();
    }
    return report;
}

KeeperTotals TextureKeeper::pump_until_settled() {
    while (!pump(std::chrono::hours(1)).is_settled)
        work_->queue.wait();
    return totals();
}

std::size_t TextureKeeper::reload_changed() {
    std::size_t count = 0;
    for (auto& [number, entry] : work_->entries) {
        if (entry.state == KeeperState::cancelled)
            continue;
        // A file that is gone for a moment, while it is rewritten, has not changed yet.
        const auto stamps = stamps_of(entry.request);
        const auto is_changed = [&stamps, &known = entry.stamps](std::size_t i) {
            return stamps[i].has_value() && stamps[i] != known[i];
        };
        if (!is_changed(0) && !is_changed(1))
            continue;
        work_->start_load(number, entry.dropped_levels);
        ++count;
    }
    return count;
}

void TextureKeeper::set_memory_budget(std::uint64_t bytes) {
    work_->options.memory_budget = bytes;
    work_->has_new_room = true;
    work_->queue.set_most_bytes(std::numeric_limits<std::uint64_t>::max());
    if (work_->device_bytes > bytes) {
        const KeptEntry nobody;
        static_cast<void>(work_->shrink_others(nobody, work_->device_bytes - bytes,
                                               work_->pump_count + 1, work_->entries.size()));
    }
}

}  // namespace yl
