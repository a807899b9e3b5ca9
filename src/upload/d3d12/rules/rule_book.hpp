// What checked devices, queues, lists and fences write down together.
#pragma once

#include <mutex>
#include <set>
#include <unordered_map>

#include <yl/d3d12_rules.hpp>
#include "upload/d3d12/rules/states.hpp"

namespace yl::d3d12 {

class CheckedFence;
class CheckedList;
class CheckedQueue;

inline constexpr auto device_removed = static_cast<HRESULT>(0x887A0005);  // DXGI_ERROR_...

/// What a descriptor shows.
struct View {
    ID3D12Resource* resource = nullptr;
    std::vector<std::uint32_t> subresources = {};
    D3D12_RESOURCE_STATES written_in = D3D12_RESOURCE_STATE_COMMON;  ///< by draws and clears
};

/// Descriptors of a table that shaders read textures by.
struct TableRange {
    std::uint32_t offset = 0, count = 0;  ///< in descriptors from the table's start
};
struct Table {
    std::vector<TableRange> ranges = {};
    bool is_for_pixels = true;  ///< seen by pixel shaders, alone or with all others
};

/// All members are used under its mutex.
class RuleBook {
 public:
    std::mutex mutex = {};
    ID3D12Device* device = nullptr;  ///< the checked one
    States states;
    std::unordered_map<SIZE_T, View> views = {};  ///< by the descriptor's address
    std::unordered_map<ID3D12RootSignature*, std::map<UINT, Table>> signatures = {};
    std::unordered_map<const void*, CheckedList*> lists = {};
    std::unordered_map<const void*, CheckedFence*> fences = {};
    std::set<CheckedQueue*> queues = {};
    Findings findings = {};

    RuleBook();

    /// Takes a broken rule down, once for each sentence.
    void report(FindingCode code, std::string problem, std::string remedy);

    /// Whether the device is still there; counts the call.
    [[nodiscard]] bool is_there();
    void remove_after(std::uint32_t calls) { calls_left_ = calls; }
    void remove();

 private:
    std::optional<std::uint32_t> calls_left_ = {};
    bool is_removed_ = false;
};

/// Has a resource followed until its last reference goes.
void follow(const std::shared_ptr<RuleBook>& book, ID3D12Resource* resource, D3D12_HEAP_TYPE heap,
            D3D12_RESOURCE_STATES state);

}  // namespace yl::d3d12
