// Queues and fences whose order is followed.
#pragma once

#include <memory>

#include "upload/d3d12/rules/forwarded_queue.hpp"
#include "upload/d3d12/rules/rule_book.hpp"

namespace yl::d3d12 {

class CheckedQueue final : public ForwardedQueue {
 public:
    CheckedQueue(std::shared_ptr<RuleBook> book, Owned<ID3D12CommandQueue> real);
    ~CheckedQueue() override;

    HRESULT STDMETHODCALLTYPE GetDevice(REFIID id, void** device) override;
    void STDMETHODCALLTYPE ExecuteCommandLists(UINT count,
                                               ID3D12CommandList* const* lists) override;
    HRESULT STDMETHODCALLTYPE Signal(ID3D12Fence* fence, UINT64 value) override;
    HRESULT STDMETHODCALLTYPE Wait(ID3D12Fence* fence, UINT64 value) override;

    /// Waits until the real queue has done everything.
    void idle();

 private:
    /// The real one behind a fence of the checked device, or the fence itself.
    [[nodiscard]] ID3D12Fence* real_fence(ID3D12Fence* fence);

    std::shared_ptr<RuleBook> book_;
};

class CheckedFence final : public ForwardedFence {
 public:
    CheckedFence(std::shared_ptr<RuleBook> book, Owned<ID3D12Fence> real);
    ~CheckedFence() override;

    HRESULT STDMETHODCALLTYPE GetDevice(REFIID id, void** device) override;
    UINT64 STDMETHODCALLTYPE GetCompletedValue() override;
    HRESULT STDMETHODCALLTYPE SetEventOnCompletion(UINT64 value, HANDLE event) override;
    HRESULT STDMETHODCALLTYPE Signal(UINT64 value) override;

 private:
    std::shared_ptr<RuleBook> book_;
};

}  // namespace yl::d3d12
