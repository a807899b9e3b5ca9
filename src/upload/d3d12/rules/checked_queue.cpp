#include "upload/d3d12/rules/checked_queue.hpp"

#include <limits>

#include "upload/d3d12/platform.hpp"
#include "upload/d3d12/rules/checked_list.hpp"

namespace yl::d3d12 {

CheckedQueue::CheckedQueue(std::shared_ptr<RuleBook> book, Owned<ID3D12CommandQueue> real)
    : ForwardedQueue(std::move(real)), book_(std::move(book)) {
    const std::scoped_lock lock(book_->mutex);
    book_->queues.insert(this);
    book_->states.add_queue(this, this->real()->GetDesc().Type);
}

CheckedQueue::~CheckedQueue() {
    const std::scoped_lock lock(book_->mutex);
    book_->queues.erase(this);
}

HRESULT CheckedQueue::GetDevice(REFIID id, void** device) {
    return book_->device->QueryInterface(id, device);
}

void CheckedQueue::ExecuteCommandLists(UINT count, ID3D12CommandList* const* lists) {
    const std::scoped_lock lock(book_->mutex);
    if (!book_->is_there())
        return;
    std::vector<ID3D12CommandList*> reals;
    Commands commands;
    for (UINT i = 0; i < count; ++i) {
        const auto known = book_->lists.find(lists[i]);
        if (known == book_->lists.end()) {
            book_->report("list-of-another-device", "a queue executes a list of another device",
                          "make lists by the device that is checked");
            continue;
        }
        if (known->second->is_open())
            book_->report("list-not-closed", "a queue executes a list that is not closed",
                          "close it first");
        else
            reals.push_back(known->second->real());
        const Commands& more = known->second->commands();
        commands.insert(commands.end(), more.begin(), more.end());
    }
    book_->states.execute(this, std::move(commands));
    if (!reals.empty())
        real()->ExecuteCommandLists(static_cast<UINT>(reals.size()), reals.data());
}

ID3D12Fence* CheckedQueue::real_fence(ID3D12Fence* fence) {
    const auto known = book_->fences.find(fence);
    return known != book_->fences.end() ? known->second->real() : fence;
}

HRESULT CheckedQueue::Signal(ID3D12Fence* fence, UINT64 value) {
    const std::scoped_lock lock(book_->mutex);
    if (!book_->is_there())
        return device_removed;
    book_->states.signal(this, fence, value);
    return real()->Signal(real_fence(fence), value);
}

HRESULT CheckedQueue::Wait(ID3D12Fence* fence, UINT64 value) {
    const std::scoped_lock lock(book_->mutex);
    if (!book_->is_there())
        return device_removed;
    book_->states.wait(this, fence, value);
    return real()->Wait(real_fence(fence), value);
}

void CheckedQueue::idle() {
    ID3D12Device* device = nullptr;
    if (FAILED(real()->GetDevice(iid_of<ID3D12Device>(), reinterpret_cast<void**>(&device))))
        return;
    const Owned<ID3D12Device> owned(device);
    Owned<ID3D12Fence> done;
    if (SUCCEEDED(
            device->CreateFence(0, D3D12_FENCE_FLAG_NONE, iid_of<ID3D12Fence>(), done.place())) &&
        SUCCEEDED(real()->Signal(done.get(), 1)))
        static_cast<void>(wait_for(done.get(), 1, real()));
}

CheckedFence::CheckedFence(std::shared_ptr<RuleBook> book, Owned<ID3D12Fence> real)
    : ForwardedFence(std::move(real)), book_(std::move(book)) {
    const std::scoped_lock lock(book_->mutex);
    book_->fences[static_cast<ID3D12Fence*>(this)] = this;
}

CheckedFence::~CheckedFence() {
    const std::scoped_lock lock(book_->mutex);
    book_->fences.erase(static_cast<ID3D12Fence*>(this));
    book_->states.drop_fence(static_cast<ID3D12Fence*>(this));
}

HRESULT CheckedFence::GetDevice(REFIID id, void** device) {
    return book_->device->QueryInterface(id, device);
}

UINT64 CheckedFence::GetCompletedValue() {
    const std::scoped_lock lock(book_->mutex);
    if (!book_->is_there())
        return std::numeric_limits<std::uint64_t>::max();
    const UINT64 value = real()->GetCompletedValue();
    book_->states.host_sees(static_cast<ID3D12Fence*>(this), value);
    return value;
}

/// The program is taken to wait for the event.
HRESULT CheckedFence::SetEventOnCompletion(UINT64 value, HANDLE event) {
    const std::scoped_lock lock(book_->mutex);
    if (!book_->is_there())
        return device_removed;
    book_->states.host_waits(static_cast<ID3D12Fence*>(this), value);
    return real()->SetEventOnCompletion(value, event);
}

HRESULT CheckedFence::Signal(UINT64 value) {
    const std::scoped_lock lock(book_->mutex);
    if (!book_->is_there())
        return device_removed;
    book_->states.host_signals(static_cast<ID3D12Fence*>(this), value);
    return real()->Signal(value);
}

}  // namespace yl::d3d12
