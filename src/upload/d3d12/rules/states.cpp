#include "upload/d3d12/rules/states.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <set>

namespace yl::d3d12 {
namespace {

constexpr unsigned bits(D3D12_RESOURCE_STATES state) {
    return static_cast<unsigned>(state);
}

constexpr unsigned writing =
    bits(D3D12_RESOURCE_STATE_RENDER_TARGET) | bits(D3D12_RESOURCE_STATE_UNORDERED_ACCESS) |
    bits(D3D12_RESOURCE_STATE_DEPTH_WRITE) | bits(D3D12_RESOURCE_STATE_STREAM_OUT) |
    bits(D3D12_RESOURCE_STATE_COPY_DEST) | bits(D3D12_RESOURCE_STATE_RESOLVE_DEST);

/// To which a texture in COMMON goes by itself where it is used.
constexpr unsigned promotable = bits(D3D12_RESOURCE_STATE_NON_PIXEL_SHADER_RESOURCE) |
                                bits(D3D12_RESOURCE_STATE_PIXEL_SHADER_RESOURCE) |
                                bits(D3D12_RESOURCE_STATE_COPY_DEST) |
                                bits(D3D12_RESOURCE_STATE_COPY_SOURCE);

bool is_buffer(const D3D12_RESOURCE_DESC& desc) {
    return desc.Dimension == D3D12_RESOURCE_DIMENSION_BUFFER;
}

bool promotes(const D3D12_RESOURCE_DESC& desc, D3D12_RESOURCE_STATES state) {
    const bool is_shared_at_once =
        (static_cast<unsigned>(desc.Flags) & D3D12_RESOURCE_FLAG_ALLOW_SIMULTANEOUS_ACCESS) != 0;
    return is_buffer(desc) || is_shared_at_once || (bits(state) & ~promotable) == 0;
}

void learn(Progress& progress, const Progress& more) {
    for (const auto& [queue, submission] : more)
        progress[queue] = std::max(progress[queue], submission);
}

bool knows(const Progress& progress, const void* queue, std::uint64_t submission) {
    const auto found = progress.find(queue);
    return submission == 0 || (found != progress.end() && found->second >= submission);
}

}  // namespace

bool writes(D3D12_RESOURCE_STATES state) {
    return (bits(state) & writing) != 0;
}

std::string state_name(D3D12_RESOURCE_STATES state) {
    static constexpr std::pair<unsigned, const char*> names[] = {
        {0x1, "VERTEX_AND_CONSTANT_BUFFER"},
        {0x2, "INDEX_BUFFER"},
        {0x4, "RENDER_TARGET"},
        {0x8, "UNORDERED_ACCESS"},
        {0x10, "DEPTH_WRITE"},
        {0x20, "DEPTH_READ"},
        {0x40, "NON_PIXEL_SHADER_RESOURCE"},
        {0x80, "PIXEL_SHADER_RESOURCE"},
        {0x100, "STREAM_OUT"},
        {0x200, "INDIRECT_ARGUMENT"},
        {0x400, "COPY_DEST"},
        {0x800, "COPY_SOURCE"},
        {0x1000, "RESOLVE_DEST"},
        {0x2000, "RESOLVE_SOURCE"}};
    std::string text;
    for (const auto& [bit, name] : names)
        if ((bits(state) & bit) != 0)
            text += (text.empty() ? "" : " | ") + std::string(name);
    return text.empty() ? "COMMON" : text;
}

void States::add_resource(ID3D12Resource* resource, const D3D12_RESOURCE_DESC& desc,
                          D3D12_HEAP_TYPE heap, D3D12_RESOURCE_STATES state) {
    Resource added;
    added.number = next_number_++;
    added.desc = desc;
    added.heap = heap;
    const std::uint32_t slices =
        desc.Dimension == D3D12_RESOURCE_DIMENSION_TEXTURE3D ? 1 : desc.DepthOrArraySize;
    Subresource first;
    first.state = state;
    added.subresources.assign(std::size_t{std::max<UINT>(desc.MipLevels, 1)} * slices, first);
    resources_[resource] = std::move(added);
}

void States::drop_resource(ID3D12Resource* resource) {
    const Resource* known = find(resource);
    if (known == nullptr)
        return;
    const bool is_in_use = std::ranges::any_of(known->subresources, [&](const Subresource& at) {
        return !knows(host_, at.writer, at.written) ||
               std::ranges::any_of(at.read, [&](const auto& reader) {
                   return !knows(host_, reader.first, reader.second);
               });
    });
    if (is_in_use)
        report_(
            "released-in-use",
            fmt::format("{} is released before a queue has finished with it", name_of(resource)),
            "wait for a fence that is signalled after the last use");
    resources_.erase(resource);
}

States::Resource* States::find(ID3D12Resource* resource) {
    const auto found = resources_.find(resource);
    return found != resources_.end() ? &found->second : nullptr;
}

std::string States::name_of(ID3D12Resource* resource) const {
    const auto found = resources_.find(resource);
    if (found == resources_.end())
        return "an unknown resource";
    const D3D12_RESOURCE_DESC& desc = found->second.desc;
    if (is_buffer(desc))
        return fmt::format("buffer {} ({} bytes)", found->second.number, desc.Width);
    return fmt::format("texture {} ({} x {} x {}, {} levels)", found->second.number, desc.Width,
                       desc.Height, desc.DepthOrArraySize, desc.MipLevels);
}

const D3D12_RESOURCE_DESC* States::desc_of(ID3D12Resource* resource) const {
    const auto found = resources_.find(resource);
    return found != resources_.end() ? &found->second.desc : nullptr;
}

D3D12_HEAP_TYPE States::heap_of(ID3D12Resource* resource) const {
    const auto found = resources_.find(resource);
    return found != resources_.end() ? found->second.heap : D3D12_HEAP_TYPE_DEFAULT;
}

std::string States::place(const Resource& resource, std::uint32_t index) const {
    const D3D12_RESOURCE_DESC& desc = resource.desc;
    if (is_buffer(desc))
        return fmt::format("buffer {}", resource.number);
    return fmt::format("subresource {} (level {}, slice {}) of texture {}", index,
                       index % desc.MipLevels, index / desc.MipLevels, resource.number);
}

void States::add_queue(const void* queue, D3D12_COMMAND_LIST_TYPE type) {
    queues_[queue].is_copying = type == D3D12_COMMAND_LIST_TYPE_COPY;
}

void States::add(const void* queue, std::variant<Submission, FenceStep> step) {
    queues_[queue].pending.push_back(std::move(step));
    advance();
}

void States::execute(const void* queue, Commands commands) {
    add(queue, Submission{std::move(commands), host_});
}

void States::signal(const void* queue, const void* fence, std::uint64_t value) {
    add(queue, FenceStep{fence, value, false});
}

void States::wait(const void* queue, const void* fence, std::uint64_t value) {
    add(queue, FenceStep{fence, value, true});
}

void States::host_signals(const void* fence, std::uint64_t value) {
    set_fence(fence, value, host_);
    advance();
}

void States::host_sees(const void* fence, std::uint64_t value) {
    for (const Signalled& one : fences_[fence])
        if (one.value <= value)
            learn(host_, one.known);
}

void States::host_waits(const void* fence, std::uint64_t value) {
    host_sees(fence, value);
    if (const Signalled* reached = signalled(fence, value))
        learn(host_, reached->known);
    else
        awaited_[fence] = std::max(awaited_[fence], value);
}

void States::drop_fence(const void* fence) {
    fences_.erase(fence);
    awaited_.erase(fence);
}

void States::finish_all() {
    for (const auto& [id, queue] : queues_)
        host_[id] = queue.executed;
}

void States::set_fence(const void* fence, std::uint64_t value, const Progress& known) {
    constexpr std::size_t most_kept = 256;
    auto& values = fences_[fence];
    values.push_back({value, known});
    if (values.size() > most_kept)
        values.pop_front();
    const auto awaited = awaited_.find(fence);
    if (awaited == awaited_.end())
        return;
    learn(host_, known);
    if (value >= awaited->second)
        awaited_.erase(awaited);
}

const States::Signalled* States::signalled(const void* fence, std::uint64_t value) const {
    const auto found = fences_.find(fence);
    if (found == fences_.end())
        return nullptr;
    const auto reached = std::ranges::find_if(
        found->second, [&](const Signalled& one) { return one.value >= value; });
    return reached != found->second.end() ? &*reached : nullptr;
}

/// As far as every queue gets: one may wait for what another has not signalled yet.
void States::advance() {
    for (bool moves = true; moves;) {
        moves = false;
        for (auto& [id, queue] : queues_)
            while (!queue.pending.empty() && take_step(id, queue)) {
                queue.pending.pop_front();
                moves = true;
            }
    }
}

bool States::take_step(const void* id, Queue& queue) {
    if (const auto* submission = std::get_if<Submission>(&queue.pending.front())) {
        learn(queue.known, submission->known);
        run(id, queue, *submission);
        return true;
    }
    const FenceStep& step = std::get<FenceStep>(queue.pending.front());
    if (!step.is_wait) {
        set_fence(step.fence, step.value, queue.known);
        return true;
    }
    const Signalled* reached = signalled(step.fence, step.value);
    if (reached == nullptr)
        return step.value == 0;
    learn(queue.known, reached->known);
    return true;
}

void States::run(const void* id, Queue& queue, const Submission& submission) {
    queue.known[id] = ++queue.executed;
    for (const auto& command : submission.commands)
        std::visit([&](const auto& one) { apply(id, queue, one); }, command);
    decay(queue, submission.commands);
}

void States::check_order(const void* id, const Queue& queue, const Resource& resource,
                         std::uint32_t index, Subresource& at, bool is_write) {
    const bool is_after_write = at.writer == id || knows(queue.known, at.writer, at.written);
    const bool is_after_reads = !is_write || std::ranges::all_of(at.read, [&](const auto& reader) {
        return reader.first == id || knows(queue.known, reader.first, reader.second);
    });
    if (!is_after_write || !is_after_reads)
        report_("queues-out-of-order",
                fmt::format("a queue {} {} while another may not have finished with it",
                            is_write ? "writes" : "reads", place(resource, index)),
                "let the queue wait for a fence that the other signals");
    if (is_write) {
        at.writer = id;
        at.written = queue.executed;
        at.read.clear();
    } else {
        at.read[id] = queue.executed;
    }
}

/// Queues that copy and the others do not know each other's states, but for COMMON.
void States::enter(const Queue& queue, const Resource& resource, std::uint32_t index,
                   Subresource& at) {
    if (at.state != D3D12_RESOURCE_STATE_COMMON && at.was_left_by_copies != queue.is_copying &&
        resource.heap == D3D12_HEAP_TYPE_DEFAULT)
        report_("not-common-between-queues",
                fmt::format("{} comes to a queue {} in the state {}", place(resource, index),
                            queue.is_copying ? "that copies" : "that draws", state_name(at.state)),
                "change it to COMMON on the queue that used it before");
    at.was_left_by_copies = queue.is_copying;
}

void States::apply(const void* id, const Queue& queue, const Use& use) {
    Resource* resource = find(use.resource);
    if (resource == nullptr)
        return;
    for (const std::uint32_t index : use.subresources) {
        Subresource& at = resource->subresources[index];
        enter(queue, *resource, index, at);
        check_order(id, queue, *resource, index, at, writes(use.needed));
        if (at.state == D3D12_RESOURCE_STATE_COMMON && promotes(resource->desc, use.needed)) {
            at.state = use.needed;
            at.is_promoted = true;
        } else if (at.is_promoted && !writes(at.state) && !writes(use.needed)) {
            at.state = static_cast<D3D12_RESOURCE_STATES>(bits(at.state) | bits(use.needed));
        } else if ((bits(at.state) & bits(use.needed)) != bits(use.needed)) {
            report_(
                "wrong-state",
                fmt::format("{} {} in the state {} instead of {}", use.what,
                            place(*resource, index), state_name(at.state), state_name(use.needed)),
                "record a barrier before");
        }
    }
}

void States::apply(const void* id, const Queue& queue, const Transition& transition) {
    Resource* resource = find(transition.resource);
    if (resource == nullptr)
        return;
    for (const std::uint32_t index : transition.subresources) {
        Subresource& at = resource->subresources[index];
        enter(queue, *resource, index, at);
        check_order(id, queue, *resource, index, at, true);
        if (at.state != transition.before)
            report_("barrier-from-another-state",
                    fmt::format("a barrier takes {} from {} to {}, and it is in the state {}",
                                place(*resource, index), state_name(transition.before),
                                state_name(transition.after), state_name(at.state)),
                    "keep track of states by subresource");
        at.state = transition.after;
        at.is_promoted = false;
    }
}

/// At the end of a submission some subresources go back to COMMON by themselves.
void States::decay(const Queue& queue, const Commands& commands) {
    std::set<ID3D12Resource*> touched;
    for (const auto& command : commands)
        std::visit([&](const auto& one) { touched.insert(one.resource); }, command);
    for (ID3D12Resource* pointer : touched) {
        Resource* resource = find(pointer);
        if (resource == nullptr || resource->heap != D3D12_HEAP_TYPE_DEFAULT)
            continue;
        for (Subresource& at : resource->subresources)
            if ((queue.is_copying && at.was_left_by_copies) || is_buffer(resource->desc) ||
                (at.is_promoted && !writes(at.state))) {
                at.state = D3D12_RESOURCE_STATE_COMMON;
                at.is_promoted = false;
            }
    }
}

}  // namespace yl::d3d12
