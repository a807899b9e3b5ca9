#include "upload/d3d12/rules/rule_book.hpp"

#include <algorithm>

#include "upload/d3d12/rules/checked_queue.hpp"

namespace yl::d3d12 {
namespace {

/// Kept by a resource among its private data, and hence released with it.
class Notice final : public Counted<IUnknown> {
 public:
    Notice(std::shared_ptr<RuleBook> book, ID3D12Resource* resource)
        : book_(std::move(book)), resource_(resource) {}
    ~Notice() override {
        const std::scoped_lock lock(book_->mutex);
        book_->states.drop_resource(resource_);
    }

    HRESULT STDMETHODCALLTYPE QueryInterface(REFIID, void** object) override {
        *object = nullptr;
        return E_NOINTERFACE;
    }

 private:
    std::shared_ptr<RuleBook> book_;
    ID3D12Resource* resource_;
};

/// The library's own name for that private datum.
constexpr GUID notice_id = {
    0x8f5f3a51, 0x6a0e, 0x4c1b, {0x9d, 0x27, 0x41, 0x7e, 0x0b, 0x6c, 0x52, 0xd4}};

}  // namespace

RuleBook::RuleBook()
    : states([this](FindingCode code, std::string problem, std::string remedy) {
          report(code, std::move(problem), std::move(remedy));
      }) {}

void RuleBook::report(FindingCode code, std::string problem, std::string remedy) {
    if (std::ranges::find(findings, problem, &Finding::problem) == findings.end())
        findings.push_back({code, std::move(problem), std::move(remedy), FindingLevel::error});
}

bool RuleBook::is_there() {
    if (calls_left_ && !is_removed_ && (*calls_left_)-- == 0)
        remove();
    return !is_removed_;
}

void RuleBook::remove() {
    if (is_removed_)
        return;
    is_removed_ = true;
    for (CheckedQueue* queue : queues)
        queue->idle();
    states.finish_all();
}

void follow(const std::shared_ptr<RuleBook>& book, ID3D12Resource* resource, D3D12_HEAP_TYPE heap,
            D3D12_RESOURCE_STATES state) {
    {
        const std::scoped_lock lock(book->mutex);
        book->states.add_resource(resource, resource->GetDesc(), heap, state);
    }
    const Owned<Notice> notice(new Notice(book, resource));
    static_cast<void>(resource->SetPrivateDataInterface(notice_id, notice.get()));
}

}  // namespace yl::d3d12
