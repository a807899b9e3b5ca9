#include "upload/d3d12/staging.hpp"

#include <algorithm>
#include <limits>

#include <yl/status_macros.hpp>
#include "upload/d3d12/context.hpp"
#include "upload/d3d12/platform.hpp"

namespace yl::d3d12 {

namespace {

struct Commands {
    Owned<ID3D12CommandAllocator> allocator = {};
    Owned<ID3D12GraphicsCommandList> list = {};  ///< closed between submissions

    [[nodiscard]] Status begin(ID3D12Device* device, D3D12_COMMAND_LIST_TYPE type) {
        if (!list) {
            YL_CHECK(check(device->CreateCommandAllocator(type, iid_of<ID3D12CommandAllocator>(),
                                                          allocator.place()),
                           "make a command allocator"));
            return check(
                device->CreateCommandList(0, type, allocator.get(), nullptr,
                                          iid_of<ID3D12GraphicsCommandList>(), list.place()),
                "make a command list");
        }
        YL_CHECK(check(allocator->Reset(), "reset commands"));
        return check(list->Reset(allocator.get(), nullptr), "begin commands");
    }
};

Status make_fence(ID3D12Device* device, Owned<ID3D12Fence>& fence) {
    if (fence)
        return {};
    return check(
        device->CreateFence(0, D3D12_FENCE_FLAG_NONE, iid_of<ID3D12Fence>(), fence.place()),
        "make a fence");
}

Status execute(ID3D12CommandQueue* queue, ID3D12GraphicsCommandList* list) {
    YL_CHECK(check(list->Close(), "end commands"));
    ID3D12CommandList* lists[] = {list};
    queue->ExecuteCommandLists(1, lists);
    return {};
}

}  // namespace

struct StagingRing::Slot {
    HostBuffer staging = {};
    Commands copy = {}, direct = {};
    std::uint64_t submission = 0;
};

StagingRing::StagingRing(Context& context) : context_(context) {}

StagingRing::~StagingRing() {
    static_cast<void>(wait_all());
}

Status StagingRing::wait(std::uint64_t submission) {
    constexpr std::uint64_t removed = std::numeric_limits<std::uint64_t>::max();
    if (submission == 0)
        return {};
    std::uint64_t reached = done_->GetCompletedValue();
    if (reached < submission) {
        YL_CHECK(wait_for(done_.get(), submission, context_.handles.queue));
        reached = done_->GetCompletedValue();
    }
    if (reached == removed)
        return check(context_.device()->GetDeviceRemovedReason(), "wait for a copy");
    return {};
}

Status StagingRing::prepare(Slot& slot, std::uint64_t bytes, Route route) {
    YL_CHECK(wait(slot.submission));
    slot.submission = 0;
    YL_CHECK(make_fence(context_.device(), done_));
    if (bytes > slot.staging.bytes) {
        slot.staging = {};
        YL_TRY(slot.staging, HostBuffer::create(context_.device(),
                                                std::max(bytes, context_.options.staging_budget),
                                                D3D12_HEAP_TYPE_UPLOAD));
    }
    if (route == Route::direct)
        return slot.direct.begin(context_.device(), D3D12_COMMAND_LIST_TYPE_DIRECT);
    YL_CHECK(make_fence(context_.device(), copied_));
    return slot.copy.begin(context_.device(), D3D12_COMMAND_LIST_TYPE_COPY);
}

Status StagingRing::send(ID3D12GraphicsCommandList* commands, Route route,
                         std::uint64_t submission) {
    ID3D12CommandQueue* queue = context_.handles.queue;
    if (route == Route::copy) {
        ID3D12CommandQueue* copy_queue = context_.handles.copy_queue;
        YL_CHECK(execute(copy_queue, commands));
        YL_CHECK(check(copy_queue->Signal(copied_.get(), submission), "signal a fence"));
        YL_CHECK(let_queue_wait(queue, copied_.get(), submission, copy_queue));
    } else {
        YL_CHECK(execute(queue, commands));
    }
    return check(queue->Signal(done_.get(), submission), "signal a fence");
}

Result<std::uint64_t> StagingRing::submit(std::uint64_t bytes, Route route,
                                          const std::function<void(const Recording&)>& record) {
    auto& slot = slots_[next_];
    if (slot == nullptr)
        slot = std::make_unique<Slot>();
    if (!context_.has_two_queues())
        route = Route::direct;
    YL_CHECK(prepare(*slot, bytes, route));
    Recording recording;
    recording.commands = (route == Route::copy ? slot->copy : slot->direct).list.get();
    recording.buffer = slot->staging.resource.get();
    if (bytes > 0)
        recording.memory = slot->staging.contents().first(bytes);
    record(recording);
    YL_CHECK(send(recording.commands, route, submissions_ + 1));
    next_ = (next_ + 1) % slots_.size();
    slot->submission = ++submissions_;
    return slot->submission;
}

}  // namespace yl::d3d12
