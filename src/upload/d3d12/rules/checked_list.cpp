#include "upload/d3d12/rules/checked_list.hpp"

#include <fmt/format.h>

#include <numeric>

#include "upload/d3d12/resource.hpp"
#include "upload/d3d12/rules/copy_rules.hpp"

namespace yl::d3d12 {

CheckedList::CheckedList(std::shared_ptr<RuleBook> book, Owned<ID3D12GraphicsCommandList> real)
    : ForwardedList(std::move(real)), book_(std::move(book)), type_(this->real()->GetType()) {
    const std::scoped_lock lock(book_->mutex);
    book_->lists[static_cast<ID3D12CommandList*>(this)] = this;
}

CheckedList::~CheckedList() {
    const std::scoped_lock lock(book_->mutex);
    book_->lists.erase(static_cast<ID3D12CommandList*>(this));
}

HRESULT CheckedList::GetDevice(REFIID id, void** device) {
    return book_->device->QueryInterface(id, device);
}

HRESULT CheckedList::Close() {
    const std::scoped_lock lock(book_->mutex);
    is_open_ = false;
    const HRESULT result = real()->Close();
    return book_->is_there() ? result : device_removed;
}

HRESULT CheckedList::Reset(ID3D12CommandAllocator* allocator, ID3D12PipelineState* pipeline) {
    const std::scoped_lock lock(book_->mutex);
    if (!book_->is_there())
        return device_removed;
    commands_.clear();
    heaps_.clear();
    graphics_ = compute_ = {};
    targets_.clear();
    depth_.reset();
    is_open_ = true;
    return real()->Reset(allocator, pipeline);
}

void CheckedList::report(FindingCode code, std::string problem, std::string remedy) {
    book_->report(code, std::move(problem), std::move(remedy));
}

bool CheckedList::is_known(ID3D12Resource* resource, const char* what) {
    if (resource != nullptr && book_->states.desc_of(resource) != nullptr)
        return true;
    report("unknown-resource", fmt::format("{} a resource that is gone or of another device", what),
           "keep resources until the queues have finished with them");
    return false;
}

void CheckedList::use(ID3D12Resource* resource, std::vector<std::uint32_t> subresources,
                      D3D12_RESOURCE_STATES state, const char* what) {
    commands_.emplace_back(Use{resource, std::move(subresources), state, what});
}

namespace {

std::vector<std::uint32_t> all_of(const D3D12_RESOURCE_DESC& desc) {
    std::vector<std::uint32_t> all(subresource_count(desc));
    std::iota(all.begin(), all.end(), 0U);
    return all;
}

}  // namespace

void CheckedList::use_all(ID3D12Resource* resource, D3D12_RESOURCE_STATES state, const char* what) {
    use(resource, all_of(*book_->states.desc_of(resource)), state, what);
}

void CheckedList::sample(SIZE_T descriptor, D3D12_RESOURCE_STATES state) {
    const auto view = book_->views.find(descriptor);
    if (view != book_->views.end() && is_known(view->second.resource, "a shader samples"))
        use(view->second.resource, view->second.subresources, state, "a shader samples");
}

void CheckedList::write_view(SIZE_T descriptor, const char* what) {
    const auto view = book_->views.find(descriptor);
    if (view != book_->views.end() && is_known(view->second.resource, what))
        use(view->second.resource, view->second.subresources, view->second.written_in, what);
}

bool CheckedList::check_barrier(const D3D12_RESOURCE_BARRIER& barrier) {
    const auto& t = barrier.Transition;
    if (!is_known(t.pResource, "a barrier changes"))
        return false;
    const D3D12_RESOURCE_DESC& desc = *book_->states.desc_of(t.pResource);
    const std::string name = book_->states.name_of(t.pResource);
    const bool is_all = t.Subresource == D3D12_RESOURCE_BARRIER_ALL_SUBRESOURCES;
    if (!is_all && t.Subresource >= subresource_count(desc)) {
        report("no-such-subresource",
               fmt::format("a barrier changes subresource {} of {}", t.Subresource, name),
               "number them level + levels * slice");
        return false;
    }
    if (t.StateBefore == t.StateAfter)
        report("barrier-without-change",
               fmt::format("a barrier takes {} from {} to the same state", name,
                           state_name(t.StateBefore)),
               "leave it out");
    for (const D3D12_RESOURCE_STATES state : {t.StateBefore, t.StateAfter}) {
        const auto bits = static_cast<unsigned>(state);
        if (writes(state) && (bits & (bits - 1)) != 0)
            report("states-that-exclude-each-other",
                   fmt::format("a barrier of {} names {}", name, state_name(state)),
                   "a state that writes stands alone");
        if (type_ == D3D12_COMMAND_LIST_TYPE_COPY && state != D3D12_RESOURCE_STATE_COMMON &&
            state != D3D12_RESOURCE_STATE_COPY_DEST && state != D3D12_RESOURCE_STATE_COPY_SOURCE)
            report("state-of-another-queue",
                   fmt::format("a list of the type COPY names {}", state_name(state)),
                   "leave it in COMMON, and change it on the queue that draws");
    }
    if (book_->states.heap_of(t.pResource) != D3D12_HEAP_TYPE_DEFAULT)
        report("barrier-on-fixed-state",
               fmt::format("a barrier changes {}, which lies in an upload or readback heap", name),
               "leave it out: its state never changes");
    const bool begins_only =
        (static_cast<unsigned>(barrier.Flags) & D3D12_RESOURCE_BARRIER_FLAG_BEGIN_ONLY) != 0;
    if (!begins_only)
        commands_.emplace_back(Transition{
            t.pResource, is_all ? all_of(desc) : std::vector<std::uint32_t>{t.Subresource},
            t.StateBefore, t.StateAfter});
    return true;
}

void CheckedList::ResourceBarrier(UINT count, const D3D12_RESOURCE_BARRIER* barriers) {
    const std::scoped_lock lock(book_->mutex);
    std::vector<D3D12_RESOURCE_BARRIER> sound;
    for (UINT i = 0; i < count; ++i)
        if (barriers[i].Type != D3D12_RESOURCE_BARRIER_TYPE_TRANSITION ||
            check_barrier(barriers[i]))
            sound.push_back(barriers[i]);
    if (!sound.empty())
        real()->ResourceBarrier(static_cast<UINT>(sound.size()), sound.data());
}

void CheckedList::CopyBufferRegion(ID3D12Resource* to, UINT64 to_offset, ID3D12Resource* from,
                                   UINT64 from_offset, UINT64 bytes) {
    const std::scoped_lock lock(book_->mutex);
    bool is_sound = true;
    for (const auto& [buffer, offset] : {std::pair{to, to_offset}, std::pair{from, from_offset}}) {
        if (!is_known(buffer, "a copy takes")) {
            is_sound = false;
            continue;
        }
        const std::uint64_t size = book_->states.desc_of(buffer)->Width;
        if (offset <= size && bytes <= size - offset)
            continue;
        is_sound = false;
        report("copy-outside",
               fmt::format("a copy of {} bytes at byte {} leaves {}", bytes, offset,
                           book_->states.name_of(buffer)),
               "stay within the buffer");
    }
    if (!is_sound)
        return;
    use_all(to, D3D12_RESOURCE_STATE_COPY_DEST, "a copy writes");
    use_all(from, D3D12_RESOURCE_STATE_COPY_SOURCE, "a copy reads");
    real()->CopyBufferRegion(to, to_offset, from, from_offset, bytes);
}

bool CheckedList::check_location(const D3D12_TEXTURE_COPY_LOCATION& location,
                                 D3D12_RESOURCE_STATES state, const char* what) {
    if (!is_known(location.pResource, what))
        return false;
    const D3D12_RESOURCE_DESC& desc = *book_->states.desc_of(location.pResource);
    const bool is_placed = location.Type == D3D12_TEXTURE_COPY_TYPE_PLACED_FOOTPRINT;
    if (is_placed != (desc.Dimension == D3D12_RESOURCE_DIMENSION_BUFFER)) {
        report("location-of-another-kind",
               fmt::format("{} {} by {}", what, book_->states.name_of(location.pResource),
                           is_placed ? "a footprint" : "the number of a subresource"),
               "footprints lie in buffers, numbers are of textures");
        return false;
    }
    const UINT index = is_placed ? 0 : location.SubresourceIndex;
    if (index >= subresource_count(desc)) {
        report("no-such-subresource",
               fmt::format("{} subresource {} of {}", what, index,
                           book_->states.name_of(location.pResource)),
               "number them level + levels * slice");
        return false;
    }
    use(location.pResource, {index}, state, what);
    return true;
}

void CheckedList::CopyTextureRegion(const D3D12_TEXTURE_COPY_LOCATION* to, UINT x, UINT y, UINT z,
                                    const D3D12_TEXTURE_COPY_LOCATION* from, const D3D12_BOX* box) {
    const std::scoped_lock lock(book_->mutex);
    const bool has_ends = check_location(*to, D3D12_RESOURCE_STATE_COPY_DEST, "a copy writes") &&
                          check_location(*from, D3D12_RESOURCE_STATE_COPY_SOURCE, "a copy reads");
    if (!has_ends)
        return;
    bool is_sound = true;
    check_copy(
        [&](FindingCode code, std::string problem, std::string remedy) {
            is_sound = false;
            report(code, std::move(problem), std::move(remedy));
        },
        book_->states, {to, x, y, z, from, box});
    if (is_sound)
        real()->CopyTextureRegion(to, x, y, z, from, box);
}

void CheckedList::CopyResource(ID3D12Resource* to, ID3D12Resource* from) {
    const std::scoped_lock lock(book_->mutex);
    if (!is_known(to, "a copy writes") || !is_known(from, "a copy reads"))
        return;
    const D3D12_RESOURCE_DESC &a = *book_->states.desc_of(to), &b = *book_->states.desc_of(from);
    if (a.Dimension != b.Dimension || a.Width != b.Width || a.Height != b.Height ||
        a.DepthOrArraySize != b.DepthOrArraySize || a.MipLevels != b.MipLevels)
        return report("copy-of-another-size",
                      fmt::format("{} is copied to {}", book_->states.name_of(from),
                                  book_->states.name_of(to)),
                      "copy regions");
    use_all(to, D3D12_RESOURCE_STATE_COPY_DEST, "a copy writes");
    use_all(from, D3D12_RESOURCE_STATE_COPY_SOURCE, "a copy reads");
    real()->CopyResource(to, from);
}

void CheckedList::SetDescriptorHeaps(UINT count, ID3D12DescriptorHeap* const* heaps) {
    const std::scoped_lock lock(book_->mutex);
    heaps_.clear();
    for (UINT i = 0; i < count; ++i) {
        const D3D12_DESCRIPTOR_HEAP_DESC desc = heaps[i]->GetDesc();
        heaps_.push_back({heaps[i]->GetGPUDescriptorHandleForHeapStart().ptr,
                          heaps[i]->GetCPUDescriptorHandleForHeapStart().ptr, desc.NumDescriptors,
                          book_->device->GetDescriptorHandleIncrementSize(desc.Type)});
    }
    real()->SetDescriptorHeaps(count, heaps);
}

void CheckedList::SetGraphicsRootSignature(ID3D12RootSignature* signature) {
    if (graphics_.signature != signature)
        graphics_ = {signature, {}};
    real()->SetGraphicsRootSignature(signature);
}

void CheckedList::SetComputeRootSignature(ID3D12RootSignature* signature) {
    if (compute_.signature != signature)
        compute_ = {signature, {}};
    real()->SetComputeRootSignature(signature);
}

void CheckedList::SetGraphicsRootDescriptorTable(UINT parameter,
                                                 D3D12_GPU_DESCRIPTOR_HANDLE start) {
    graphics_.tables[parameter] = start;
    real()->SetGraphicsRootDescriptorTable(parameter, start);
}

void CheckedList::SetComputeRootDescriptorTable(UINT parameter, D3D12_GPU_DESCRIPTOR_HANDLE start) {
    compute_.tables[parameter] = start;
    real()->SetComputeRootDescriptorTable(parameter, start);
}

void CheckedList::OMSetRenderTargets(UINT count, const D3D12_CPU_DESCRIPTOR_HANDLE* targets,
                                     BOOL is_one_range, const D3D12_CPU_DESCRIPTOR_HANDLE* depth) {
    const UINT step =
        book_->device->GetDescriptorHandleIncrementSize(D3D12_DESCRIPTOR_HEAP_TYPE_RTV);
    targets_.clear();
    for (UINT i = 0; i < count; ++i)
        targets_.push_back(is_one_range ? targets->ptr + SIZE_T{i} * step : targets[i].ptr);
    depth_ = depth != nullptr ? std::optional(depth->ptr) : std::nullopt;
    real()->OMSetRenderTargets(count, targets, is_one_range, depth);
}

void CheckedList::ClearRenderTargetView(D3D12_CPU_DESCRIPTOR_HANDLE target, const FLOAT color[4],
                                        UINT count, const D3D12_RECT* rects) {
    const std::scoped_lock lock(book_->mutex);
    write_view(target.ptr, "a clear writes");
    real()->ClearRenderTargetView(target, color, count, rects);
}

void CheckedList::ClearDepthStencilView(D3D12_CPU_DESCRIPTOR_HANDLE target, D3D12_CLEAR_FLAGS flags,
                                        FLOAT depth, UINT8 stencil, UINT count,
                                        const D3D12_RECT* rects) {
    const std::scoped_lock lock(book_->mutex);
    write_view(target.ptr, "a clear writes");
    real()->ClearDepthStencilView(target, flags, depth, stencil, count, rects);
}

void CheckedList::use_tables(const Bindings& bindings, D3D12_RESOURCE_STATES state) {
    const auto signature = book_->signatures.find(bindings.signature);
    if (signature == book_->signatures.end())
        return;
    for (const auto& [parameter, table] : signature->second) {
        const auto start = bindings.tables.find(parameter);
        if (start == bindings.tables.end())
            continue;
        const bool is_drawn = state == D3D12_RESOURCE_STATE_PIXEL_SHADER_RESOURCE;
        const auto needed = is_drawn && !table.is_for_pixels
                                ? D3D12_RESOURCE_STATE_NON_PIXEL_SHADER_RESOURCE
                                : state;
        for (const Heap& heap : heaps_) {
            const UINT64 end = heap.gpu + UINT64{heap.count} * heap.step;
            if (start->second.ptr < heap.gpu || start->second.ptr >= end)
                continue;
            const auto first = static_cast<UINT>((start->second.ptr - heap.gpu) / heap.step);
            for (const TableRange& range : table.ranges)
                for (UINT i = 0; i < range.count && first + range.offset + i < heap.count; ++i)
                    sample(heap.cpu + SIZE_T{first + range.offset + i} * heap.step, needed);
        }
    }
}

void CheckedList::draw() {
    for (const SIZE_T target : targets_)
        write_view(target, "a draw writes");
    if (depth_)
        write_view(*depth_, "a draw writes");
    use_tables(graphics_, D3D12_RESOURCE_STATE_PIXEL_SHADER_RESOURCE);
}

void CheckedList::DrawInstanced(UINT vertices, UINT instances, UINT first_vertex,
                                UINT first_instance) {
    const std::scoped_lock lock(book_->mutex);
    draw();
    real()->DrawInstanced(vertices, instances, first_vertex, first_instance);
}

void CheckedList::DrawIndexedInstanced(UINT indices, UINT instances, UINT first_index,
                                       INT base_vertex, UINT first_instance) {
    const std::scoped_lock lock(book_->mutex);
    draw();
    real()->DrawIndexedInstanced(indices, instances, first_index, base_vertex, first_instance);
}

void CheckedList::Dispatch(UINT x, UINT y, UINT z) {
    const std::scoped_lock lock(book_->mutex);
    use_tables(compute_, D3D12_RESOURCE_STATE_NON_PIXEL_SHADER_RESOURCE);
    real()->Dispatch(x, y, z);
}

void CheckedList::ExecuteBundle(ID3D12GraphicsCommandList* bundle) {
    const std::scoped_lock lock(book_->mutex);
    const auto known = book_->lists.find(static_cast<ID3D12CommandList*>(bundle));
    if (known == book_->lists.end())
        return report("list-of-another-device", "a list executes a bundle of another device",
                      "make bundles by the device that is checked");
    const Commands& more = known->second->commands();
    commands_.insert(commands_.end(), more.begin(), more.end());
    real()->ExecuteBundle(known->second->real());
}

}  // namespace yl::d3d12
