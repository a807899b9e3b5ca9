// States of subresources as Direct3D 12 follows them from one submission to the next.
//
// Lists are only written down when they are recorded; what they do to states is known when a queue
// executes them. Queues are followed in the order of their submissions, as far as fences let them.
#pragma once

#include <cstdint>
#include <deque>
#include <functional>
#include <map>
#include <string>
#include <variant>
#include <vector>

#include <yl/finding.hpp>
#include "upload/d3d12/com.hpp"

namespace yl::d3d12 {

/// A command that needs subresources in a state.
struct Use {
    ID3D12Resource* resource = nullptr;
    std::vector<std::uint32_t> subresources = {};
    D3D12_RESOURCE_STATES needed = D3D12_RESOURCE_STATE_COMMON;
    const char* what = "";  ///< it does: "a copy writes"
};

struct Transition {
    ID3D12Resource* resource = nullptr;
    std::vector<std::uint32_t> subresources = {};
    D3D12_RESOURCE_STATES before = D3D12_RESOURCE_STATE_COMMON;
    D3D12_RESOURCE_STATES after = D3D12_RESOURCE_STATE_COMMON;
};

/// What a command list holds, as far as states go.
using Commands = std::vector<std::variant<Use, Transition>>;

/// Whether a state is one that writes.
[[nodiscard]] bool writes(D3D12_RESOURCE_STATES state);

/// The names of a state's bits, as d3d12.h has them.
[[nodiscard]] std::string state_name(D3D12_RESOURCE_STATES state);

/// Takes a broken rule down.
using Report = std::function<void(FindingCode code, std::string problem, std::string remedy)>;

/// How far something knows that each queue has come: the number of its last submission that is done.
using Progress = std::map<const void*, std::uint64_t>;

class States {
 public:
    explicit States(Report report) : report_(std::move(report)) {}

    void add_resource(ID3D12Resource* resource, const D3D12_RESOURCE_DESC& desc,
                      D3D12_HEAP_TYPE heap, D3D12_RESOURCE_STATES state);
    /// It is gone; breaks a rule when a queue has not finished with it as far as the program knows.
    void drop_resource(ID3D12Resource* resource);
    [[nodiscard]] std::size_t resources() const { return resources_.size(); }
    /// How sentences call it; and whether it is known.
    [[nodiscard]] std::string name_of(ID3D12Resource* resource) const;
    [[nodiscard]] const D3D12_RESOURCE_DESC* desc_of(ID3D12Resource* resource) const;
    [[nodiscard]] D3D12_HEAP_TYPE heap_of(ID3D12Resource* resource) const;

    void add_queue(const void* queue, D3D12_COMMAND_LIST_TYPE type);
    void execute(const void* queue, Commands commands);
    void signal(const void* queue, const void* fence, std::uint64_t value);
    void wait(const void* queue, const void* fence, std::uint64_t value);
    /// The host sets a fence, sees that it has this value, or waits until it has.
    void host_signals(const void* fence, std::uint64_t value);
    void host_sees(const void* fence, std::uint64_t value);
    void host_waits(const void* fence, std::uint64_t value);
    void drop_fence(const void* fence);
    /// Every queue has done all, and the host knows.
    void finish_all();

 private:
    struct Subresource {
        D3D12_RESOURCE_STATES state = D3D12_RESOURCE_STATE_COMMON;
        bool is_promoted = false;         ///< from COMMON, by a use
        bool was_left_by_copies = false;  ///< the last queue that set the state was of type COPY
        const void* writer = nullptr;     ///< the queue that wrote last
        std::uint64_t written = 0;        ///< in which of its submissions
        Progress read = {};               ///< the last submission of each queue that reads it
    };
    struct Resource {
        std::uint64_t number = 0;
        D3D12_RESOURCE_DESC desc = {};
        D3D12_HEAP_TYPE heap = D3D12_HEAP_TYPE_DEFAULT;
        std::vector<Subresource> subresources = {};
    };
    struct Submission {
        Commands commands = {};
        Progress known = {};  ///< to the host when it was submitted
    };
    struct FenceStep {
        const void* fence = nullptr;
        std::uint64_t value = 0;
        bool is_wait = false;
    };
    struct Queue {
        bool is_copying = false;
        std::uint64_t executed = 0;
        Progress known = {};
        std::deque<std::variant<Submission, FenceStep>> pending = {};
    };
    struct Signalled {
        std::uint64_t value = 0;
        Progress known = {};
    };

    void add(const void* queue, std::variant<Submission, FenceStep> step);
    void advance();
    [[nodiscard]] bool take_step(const void* id, Queue& queue);
    [[nodiscard]] const Signalled* signalled(const void* fence, std::uint64_t value) const;
    void set_fence(const void* fence, std::uint64_t value, const Progress& known);

    void run(const void* id, Queue& queue, const Submission& submission);
    void apply(const void* id, const Queue& queue, const Use& use);
    void apply(const void* id, const Queue& queue, const Transition& transition);
    void check_order(const void* id, const Queue& queue, const Resource& resource,
                     std::uint32_t index, Subresource& at, bool is_write);
    void enter(const Queue& queue, const Resource& resource, std::uint32_t index, Subresource& at);
    void decay(const Queue& queue, const Commands& commands);
    [[nodiscard]] std::string place(const Resource& resource, std::uint32_t index) const;
    [[nodiscard]] Resource* find(ID3D12Resource* resource);

    Report report_;
    std::map<ID3D12Resource*, Resource> resources_ = {};
    std::map<const void*, Queue> queues_ = {};
    std::map<const void*, std::deque<Signalled>> fences_ = {};
    Progress host_ = {};
    std::map<const void*, std::uint64_t> awaited_ = {};  ///< by the host, not signalled yet
    std::uint64_t next_number_ = 1;
};

}  // namespace yl::d3d12
