// A device that hands every call on.
#pragma once

#include "upload/d3d12/rules/forwarded.hpp"

namespace yl::d3d12 {

class ForwardedDevice : public Forwarded<ID3D12Device> {
 public:
    using Forwarded::Forwarded;

    UINT STDMETHODCALLTYPE GetNodeCount() override { return real()->GetNodeCount(); }
    HRESULT STDMETHODCALLTYPE CreateCommandQueue(const D3D12_COMMAND_QUEUE_DESC* desc, REFIID riid,
                                                 void** command_queue) override {
        return real()->CreateCommandQueue(desc, riid, command_queue);
    }
    HRESULT STDMETHODCALLTYPE CreateCommandAllocator(D3D12_COMMAND_LIST_TYPE type, REFIID riid,
                                                     void** allocator) override {
        return real()->CreateCommandAllocator(type, riid, allocator);
    }
    HRESULT STDMETHODCALLTYPE
    CreateGraphicsPipelineState(const D3D12_GRAPHICS_PIPELINE_STATE_DESC* desc, REFIID riid,
                                void** pipeline_state) override {
        return real()->CreateGraphicsPipelineState(desc, riid, pipeline_state);
    }
    HRESULT STDMETHODCALLTYPE
    CreateComputePipelineState(const D3D12_COMPUTE_PIPELINE_STATE_DESC* desc, REFIID riid,
                               void** pipeline_state) override {
        return real()->CreateComputePipelineState(desc, riid, pipeline_state);
    }
    HRESULT STDMETHODCALLTYPE CreateCommandList(UINT node_mask, D3D12_COMMAND_LIST_TYPE type,
                                                ID3D12CommandAllocator* allocator,
                                                ID3D12PipelineState* pipeline, REFIID riid,
                                                void** command_list) override {
        return real()->CreateCommandList(node_mask, type, allocator, pipeline, riid, command_list);
    }
    HRESULT STDMETHODCALLTYPE CheckFeatureSupport(D3D12_FEATURE feature, void* data,
                                                  UINT bytes) override {
        return real()->CheckFeatureSupport(feature, data, bytes);
    }
    HRESULT STDMETHODCALLTYPE CreateDescriptorHeap(const D3D12_DESCRIPTOR_HEAP_DESC* desc,
                                                   REFIID riid, void** descriptor_heap) override {
        return real()->CreateDescriptorHeap(desc, riid, descriptor_heap);
    }
    UINT STDMETHODCALLTYPE
    GetDescriptorHandleIncrementSize(D3D12_DESCRIPTOR_HEAP_TYPE descriptor_heap_type) override {
        return real()->GetDescriptorHandleIncrementSize(descriptor_heap_type);
    }
    HRESULT STDMETHODCALLTYPE CreateRootSignature(UINT node_mask, const void* bytecode,
                                                  SIZE_T bytes, REFIID riid,
                                                  void** root_signature) override {
        return real()->CreateRootSignature(node_mask, bytecode, bytes, riid, root_signature);
    }
    void STDMETHODCALLTYPE
    CreateConstantBufferView(const D3D12_CONSTANT_BUFFER_VIEW_DESC* desc,
                             D3D12_CPU_DESCRIPTOR_HANDLE descriptor) override {
        real()->CreateConstantBufferView(desc, descriptor);
    }
    void STDMETHODCALLTYPE
    CreateShaderResourceView(ID3D12Resource* resource, const D3D12_SHADER_RESOURCE_VIEW_DESC* desc,
                             D3D12_CPU_DESCRIPTOR_HANDLE descriptor) override {
        real()->CreateShaderResourceView(resource, desc, descriptor);
    }
    void STDMETHODCALLTYPE
    CreateUnorderedAccessView(ID3D12Resource* resource, ID3D12Resource* counter_resource,
                              const D3D12_UNORDERED_ACCESS_VIEW_DESC* desc,
                              D3D12_CPU_DESCRIPTOR_HANDLE descriptor) override {
        real()->CreateUnorderedAccessView(resource, counter_resource, desc, descriptor);
    }
    void STDMETHODCALLTYPE CreateRenderTargetView(ID3D12Resource* resource,
                                                  const D3D12_RENDER_TARGET_VIEW_DESC* desc,
                                                  D3D12_CPU_DESCRIPTOR_HANDLE descriptor) override {
        real()->CreateRenderTargetView(resource, desc, descriptor);
    }
    void STDMETHODCALLTYPE CreateDepthStencilView(ID3D12Resource* resource,
                                                  const D3D12_DEPTH_STENCIL_VIEW_DESC* desc,
                                                  D3D12_CPU_DESCRIPTOR_HANDLE descriptor) override {
        real()->CreateDepthStencilView(resource, desc, descriptor);
    }
    void STDMETHODCALLTYPE CreateSampler(const D3D12_SAMPLER_DESC* desc,
                                         D3D12_CPU_DESCRIPTOR_HANDLE descriptor) override {
        real()->CreateSampler(desc, descriptor);
    }
    void STDMETHODCALLTYPE CopyDescriptors(
        UINT to_ranges, const D3D12_CPU_DESCRIPTOR_HANDLE* to_starts, const UINT* to_sizes,
        UINT from_ranges, const D3D12_CPU_DESCRIPTOR_HANDLE* from_starts, const UINT* from_sizes,
        D3D12_DESCRIPTOR_HEAP_TYPE descriptor_heap_type) override {
        real()->CopyDescriptors(to_ranges, to_starts, to_sizes, from_ranges, from_starts,
                                from_sizes, descriptor_heap_type);
    }
    void STDMETHODCALLTYPE CopyDescriptorsSimple(
        UINT descriptor_count, const D3D12_CPU_DESCRIPTOR_HANDLE to_descriptor_range_offset,
        const D3D12_CPU_DESCRIPTOR_HANDLE from_descriptor_range_offset,
        D3D12_DESCRIPTOR_HEAP_TYPE descriptor_heap_type) override {
        real()->CopyDescriptorsSimple(descriptor_count, to_descriptor_range_offset,
                                      from_descriptor_range_offset, descriptor_heap_type);
    }
    HRESULT STDMETHODCALLTYPE CreateCommittedResource(const D3D12_HEAP_PROPERTIES* heap_properties,
                                                      D3D12_HEAP_FLAGS heap_flags,
                                                      const D3D12_RESOURCE_DESC* desc,
                                                      D3D12_RESOURCE_STATES initial_state,
                                                      const D3D12_CLEAR_VALUE* clear, REFIID riid,
                                                      void** resource) override {
        return real()->CreateCommittedResource(heap_properties, heap_flags, desc, initial_state,
                                               clear, riid, resource);
    }
    HRESULT STDMETHODCALLTYPE CreateHeap(const D3D12_HEAP_DESC* desc, REFIID riid,
                                         void** heap) override {
        return real()->CreateHeap(desc, riid, heap);
    }
    HRESULT STDMETHODCALLTYPE CreatePlacedResource(ID3D12Heap* heap, UINT64 heap_offset,
                                                   const D3D12_RESOURCE_DESC* desc,
                                                   D3D12_RESOURCE_STATES initial_state,
                                                   const D3D12_CLEAR_VALUE* clear, REFIID riid,
                                                   void** resource) override {
        return real()->CreatePlacedResource(heap, heap_offset, desc, initial_state, clear, riid,
                                            resource);
    }
    HRESULT STDMETHODCALLTYPE CreateReservedResource(const D3D12_RESOURCE_DESC* desc,
                                                     D3D12_RESOURCE_STATES initial_state,
                                                     const D3D12_CLEAR_VALUE* clear, REFIID riid,
                                                     void** resource) override {
        return real()->CreateReservedResource(desc, initial_state, clear, riid, resource);
    }
    HRESULT STDMETHODCALLTYPE CreateSharedHandle(ID3D12DeviceChild* object,
                                                 const SECURITY_ATTRIBUTES* attributes,
                                                 DWORD access, const WCHAR* name,
                                                 HANDLE* handle) override {
        return real()->CreateSharedHandle(object, attributes, access, name, handle);
    }
    HRESULT STDMETHODCALLTYPE OpenSharedHandle(HANDLE handle, REFIID riid, void** object) override {
        return real()->OpenSharedHandle(handle, riid, object);
    }
    HRESULT STDMETHODCALLTYPE OpenSharedHandleByName(const WCHAR* name, DWORD access,
                                                     HANDLE* handle) override {
        return real()->OpenSharedHandleByName(name, access, handle);
    }
    HRESULT STDMETHODCALLTYPE MakeResident(UINT object_count,
                                           ID3D12Pageable* const* objects) override {
        return real()->MakeResident(object_count, objects);
    }
    HRESULT STDMETHODCALLTYPE Evict(UINT object_count, ID3D12Pageable* const* objects) override {
        return real()->Evict(object_count, objects);
    }
    HRESULT STDMETHODCALLTYPE CreateFence(UINT64 initial_value, D3D12_FENCE_FLAGS flags,
                                          REFIID riid, void** fence) override {
        return real()->CreateFence(initial_value, flags, riid, fence);
    }
    HRESULT STDMETHODCALLTYPE GetDeviceRemovedReason() override {
        return real()->GetDeviceRemovedReason();
    }
    void STDMETHODCALLTYPE GetCopyableFootprints(const D3D12_RESOURCE_DESC* desc, UINT first,
                                                 UINT count, UINT64 base_offset,
                                                 D3D12_PLACED_SUBRESOURCE_FOOTPRINT* layouts,
                                                 UINT* row_count, UINT64* row_size,
                                                 UINT64* total_bytes) override {
        real()->GetCopyableFootprints(desc, first, count, base_offset, layouts, row_count, row_size,
                                      total_bytes);
    }
    HRESULT STDMETHODCALLTYPE CreateQueryHeap(const D3D12_QUERY_HEAP_DESC* desc, REFIID riid,
                                              void** heap) override {
        return real()->CreateQueryHeap(desc, riid, heap);
    }
    HRESULT STDMETHODCALLTYPE SetStablePowerState(BOOL enable) override {
        return real()->SetStablePowerState(enable);
    }
    HRESULT STDMETHODCALLTYPE CreateCommandSignature(const D3D12_COMMAND_SIGNATURE_DESC* desc,
                                                     ID3D12RootSignature* root_signature,
                                                     REFIID riid,
                                                     void** command_signature) override {
        return real()->CreateCommandSignature(desc, root_signature, riid, command_signature);
    }
    void STDMETHODCALLTYPE GetResourceTiling(ID3D12Resource* resource, UINT* tiles,
                                             D3D12_PACKED_MIP_INFO* packed,
                                             D3D12_TILE_SHAPE* tile_shape, UINT* tiling_count,
                                             UINT first_tiling,
                                             D3D12_SUBRESOURCE_TILING* tilings) override {
        real()->GetResourceTiling(resource, tiles, packed, tile_shape, tiling_count, first_tiling,
                                  tilings);
    }

#ifdef WIDL_EXPLICIT_AGGREGATE_RETURNS
    D3D12_RESOURCE_ALLOCATION_INFO* STDMETHODCALLTYPE
    GetResourceAllocationInfo(D3D12_RESOURCE_ALLOCATION_INFO* result, UINT mask, UINT count,
                              const D3D12_RESOURCE_DESC* descs) override {
        return real()->GetResourceAllocationInfo(result, mask, count, descs);
    }
#else
    D3D12_RESOURCE_ALLOCATION_INFO STDMETHODCALLTYPE
    GetResourceAllocationInfo(UINT mask, UINT count, const D3D12_RESOURCE_DESC* descs) override {
        return real()->GetResourceAllocationInfo(mask, count, descs);
    }
#endif

#ifdef WIDL_EXPLICIT_AGGREGATE_RETURNS
    D3D12_HEAP_PROPERTIES* STDMETHODCALLTYPE GetCustomHeapProperties(
        D3D12_HEAP_PROPERTIES* result, UINT mask, D3D12_HEAP_TYPE type) override {
        return real()->GetCustomHeapProperties(result, mask, type);
    }
#else
    D3D12_HEAP_PROPERTIES STDMETHODCALLTYPE GetCustomHeapProperties(UINT mask,
                                                                    D3D12_HEAP_TYPE type) override {
        return real()->GetCustomHeapProperties(mask, type);
    }
#endif

#ifdef WIDL_EXPLICIT_AGGREGATE_RETURNS
    LUID* STDMETHODCALLTYPE GetAdapterLuid(LUID* result) override {
        return real()->GetAdapterLuid(result);
    }
#else
    LUID STDMETHODCALLTYPE GetAdapterLuid() override {
        return real()->GetAdapterLuid();
    }
#endif
};

}  // namespace yl::d3d12
