// A command list whose commands are looked at before they are recorded.
#pragma once

#include <memory>

#include "upload/d3d12/rules/forwarded_list.hpp"
#include "upload/d3d12/rules/rule_book.hpp"

namespace yl::d3d12 {

/// A command that reaches beyond a resource is reported and left out; all others are recorded as
/// they are.
class CheckedList final : public ForwardedList {
 public:
    CheckedList(std::shared_ptr<RuleBook> book, Owned<ID3D12GraphicsCommandList> real);
    ~CheckedList() override;

    [[nodiscard]] bool is_open() const { return is_open_; }
    [[nodiscard]] const Commands& commands() const { return commands_; }

    HRESULT STDMETHODCALLTYPE GetDevice(REFIID id, void** device) override;
    HRESULT STDMETHODCALLTYPE Close() override;
    HRESULT STDMETHODCALLTYPE Reset(ID3D12CommandAllocator* allocator,
                                    ID3D12PipelineState* pipeline) override;

    void STDMETHODCALLTYPE ResourceBarrier(UINT count,
                                           const D3D12_RESOURCE_BARRIER* barriers) override;
    void STDMETHODCALLTYPE CopyBufferRegion(ID3D12Resource* to, UINT64 to_offset,
                                            ID3D12Resource* from, UINT64 from_offset,
                                            UINT64 bytes) override;
    void STDMETHODCALLTYPE CopyTextureRegion(const D3D12_TEXTURE_COPY_LOCATION* to, UINT x, UINT y,
                                             UINT z, const D3D12_TEXTURE_COPY_LOCATION* from,
                                             const D3D12_BOX* box) override;
    void STDMETHODCALLTYPE CopyResource(ID3D12Resource* to, ID3D12Resource* from) override;

    void STDMETHODCALLTYPE SetDescriptorHeaps(UINT count,
                                              ID3D12DescriptorHeap* const* heaps) override;
    void STDMETHODCALLTYPE SetGraphicsRootSignature(ID3D12RootSignature* signature) override;
    void STDMETHODCALLTYPE SetComputeRootSignature(ID3D12RootSignature* signature) override;
    void STDMETHODCALLTYPE
    SetGraphicsRootDescriptorTable(UINT parameter, D3D12_GPU_DESCRIPTOR_HANDLE start) override;
    void STDMETHODCALLTYPE
    SetComputeRootDescriptorTable(UINT parameter, D3D12_GPU_DESCRIPTOR_HANDLE start) override;
    void STDMETHODCALLTYPE OMSetRenderTargets(UINT count,
                                              const D3D12_CPU_DESCRIPTOR_HANDLE* targets,
                                              BOOL is_one_range,
                                              const D3D12_CPU_DESCRIPTOR_HANDLE* depth) override;
    void STDMETHODCALLTYPE ClearRenderTargetView(D3D12_CPU_DESCRIPTOR_HANDLE target,
                                                 const FLOAT color[4], UINT count,
                                                 const D3D12_RECT* rects) override;
    void STDMETHODCALLTYPE ClearDepthStencilView(D3D12_CPU_DESCRIPTOR_HANDLE target,
                                                 D3D12_CLEAR_FLAGS flags, FLOAT depth,
                                                 UINT8 stencil, UINT count,
                                                 const D3D12_RECT* rects) override;
    void STDMETHODCALLTYPE DrawInstanced(UINT vertices, UINT instances, UINT first_vertex,
                                         UINT first_instance) override;
    void STDMETHODCALLTYPE DrawIndexedInstanced(UINT indices, UINT instances, UINT first_index,
                                                INT base_vertex, UINT first_instance) override;
    void STDMETHODCALLTYPE Dispatch(UINT x, UINT y, UINT z) override;
    void STDMETHODCALLTYPE ExecuteBundle(ID3D12GraphicsCommandList* bundle) override;

 private:
    /// What shaders of one kind are given.
    struct Bindings {
        ID3D12RootSignature* signature = nullptr;
        std::map<UINT, D3D12_GPU_DESCRIPTOR_HANDLE> tables = {};
    };
    struct Heap {
        UINT64 gpu = 0;
        SIZE_T cpu = 0;
        UINT count = 0, step = 0;
    };

    void report(FindingCode code, std::string problem, std::string remedy);
    void use(ID3D12Resource* resource, std::vector<std::uint32_t> subresources,
             D3D12_RESOURCE_STATES state, const char* what);
    void sample(SIZE_T descriptor, D3D12_RESOURCE_STATES state);
    void write_view(SIZE_T descriptor, const char* what);
    void use_all(ID3D12Resource* resource, D3D12_RESOURCE_STATES state, const char* what);
    void use_tables(const Bindings& bindings, D3D12_RESOURCE_STATES state);
    void draw();
    [[nodiscard]] bool is_known(ID3D12Resource* resource, const char* what);
    [[nodiscard]] bool check_location(const D3D12_TEXTURE_COPY_LOCATION& location,
                                      D3D12_RESOURCE_STATES state, const char* what);
    [[nodiscard]] bool check_barrier(const D3D12_RESOURCE_BARRIER& barrier);

    std::shared_ptr<RuleBook> book_;
    D3D12_COMMAND_LIST_TYPE type_;
    bool is_open_ = true;
    Commands commands_ = {};
    std::vector<Heap> heaps_ = {};
    Bindings graphics_ = {}, compute_ = {};
    std::vector<SIZE_T> targets_ = {};
    std::optional<SIZE_T> depth_ = {};
};

}  // namespace yl::d3d12
