// A command list that hands every call on.
#pragma once

#include "upload/d3d12/rules/forwarded.hpp"

namespace yl::d3d12 {

class ForwardedList : public ForwardedChild<ID3D12GraphicsCommandList, ID3D12CommandList> {
 public:
    using ForwardedChild::ForwardedChild;

    D3D12_COMMAND_LIST_TYPE STDMETHODCALLTYPE GetType() override { return real()->GetType(); }
    HRESULT STDMETHODCALLTYPE Close() override { return real()->Close(); }
    HRESULT STDMETHODCALLTYPE Reset(ID3D12CommandAllocator* allocator,
                                    ID3D12PipelineState* initial_state) override {
        return real()->Reset(allocator, initial_state);
    }
    HRESULT STDMETHODCALLTYPE ClearState(ID3D12PipelineState* pipeline_state) override {
        return real()->ClearState(pipeline_state);
    }
    void STDMETHODCALLTYPE DrawInstanced(UINT vertices, UINT instances, UINT first_vertex,
                                         UINT first_instance) override {
        real()->DrawInstanced(vertices, instances, first_vertex, first_instance);
    }
    void STDMETHODCALLTYPE DrawIndexedInstanced(UINT indices, UINT instances, UINT first_vertex,
                                                INT base_vertex, UINT first_instance) override {
        real()->DrawIndexedInstanced(indices, instances, first_vertex, base_vertex, first_instance);
    }
    void STDMETHODCALLTYPE Dispatch(UINT x, UINT y, UINT z) override { real()->Dispatch(x, y, z); }
    void STDMETHODCALLTYPE CopyBufferRegion(ID3D12Resource* to_buffer, UINT64 to_offset,
                                            ID3D12Resource* from_buffer, UINT64 from_offset,
                                            UINT64 byte_count) override {
        real()->CopyBufferRegion(to_buffer, to_offset, from_buffer, from_offset, byte_count);
    }
    void STDMETHODCALLTYPE CopyTextureRegion(const D3D12_TEXTURE_COPY_LOCATION* dst, UINT to_x,
                                             UINT to_y, UINT to_z,
                                             const D3D12_TEXTURE_COPY_LOCATION* src,
                                             const D3D12_BOX* from_box) override {
        real()->CopyTextureRegion(dst, to_x, to_y, to_z, src, from_box);
    }
    void STDMETHODCALLTYPE CopyResource(ID3D12Resource* to_resource,
                                        ID3D12Resource* from_resource) override {
        real()->CopyResource(to_resource, from_resource);
    }
    void STDMETHODCALLTYPE CopyTiles(ID3D12Resource* tiled,
                                     const D3D12_TILED_RESOURCE_COORDINATE* start,
                                     const D3D12_TILE_REGION_SIZE* size, ID3D12Resource* buffer,
                                     UINT64 buffer_offset, D3D12_TILE_COPY_FLAGS flags) override {
        real()->CopyTiles(tiled, start, size, buffer, buffer_offset, flags);
    }
    void STDMETHODCALLTYPE ResolveSubresource(ID3D12Resource* to_resource, UINT to_subresource,
                                              ID3D12Resource* from_resource, UINT from_subresource,
                                              DXGI_FORMAT format) override {
        real()->ResolveSubresource(to_resource, to_subresource, from_resource, from_subresource,
                                   format);
    }
    void STDMETHODCALLTYPE
    IASetPrimitiveTopology(D3D12_PRIMITIVE_TOPOLOGY primitive_topology) override {
        real()->IASetPrimitiveTopology(primitive_topology);
    }
    void STDMETHODCALLTYPE RSSetViewports(UINT viewport_count,
                                          const D3D12_VIEWPORT* viewports) override {
        real()->RSSetViewports(viewport_count, viewports);
    }
    void STDMETHODCALLTYPE RSSetScissorRects(UINT rect_count, const D3D12_RECT* rects) override {
        real()->RSSetScissorRects(rect_count, rects);
    }
    void STDMETHODCALLTYPE OMSetBlendFactor(const FLOAT blend_factor[4]) override {
        real()->OMSetBlendFactor(blend_factor);
    }
    void STDMETHODCALLTYPE OMSetStencilRef(UINT stencil_ref) override {
        real()->OMSetStencilRef(stencil_ref);
    }
    void STDMETHODCALLTYPE SetPipelineState(ID3D12PipelineState* pipeline_state) override {
        real()->SetPipelineState(pipeline_state);
    }
    void STDMETHODCALLTYPE ResourceBarrier(UINT count,
                                           const D3D12_RESOURCE_BARRIER* barriers) override {
        real()->ResourceBarrier(count, barriers);
    }
    void STDMETHODCALLTYPE ExecuteBundle(ID3D12GraphicsCommandList* command_list) override {
        real()->ExecuteBundle(command_list);
    }
    void STDMETHODCALLTYPE SetDescriptorHeaps(UINT heap_count,
                                              ID3D12DescriptorHeap* const* heaps) override {
        real()->SetDescriptorHeaps(heap_count, heaps);
    }
    void STDMETHODCALLTYPE SetComputeRootSignature(ID3D12RootSignature* root_signature) override {
        real()->SetComputeRootSignature(root_signature);
    }
    void STDMETHODCALLTYPE SetGraphicsRootSignature(ID3D12RootSignature* root_signature) override {
        real()->SetGraphicsRootSignature(root_signature);
    }
    void STDMETHODCALLTYPE SetComputeRootDescriptorTable(
        UINT parameter, D3D12_GPU_DESCRIPTOR_HANDLE base_descriptor) override {
        real()->SetComputeRootDescriptorTable(parameter, base_descriptor);
    }
    void STDMETHODCALLTYPE SetGraphicsRootDescriptorTable(
        UINT parameter, D3D12_GPU_DESCRIPTOR_HANDLE base_descriptor) override {
        real()->SetGraphicsRootDescriptorTable(parameter, base_descriptor);
    }
    void STDMETHODCALLTYPE SetComputeRoot32BitConstant(UINT parameter, UINT data,
                                                       UINT to_offset) override {
        real()->SetComputeRoot32BitConstant(parameter, data, to_offset);
    }
    void STDMETHODCALLTYPE SetGraphicsRoot32BitConstant(UINT parameter, UINT data,
                                                        UINT to_offset) override {
        real()->SetGraphicsRoot32BitConstant(parameter, data, to_offset);
    }
    void STDMETHODCALLTYPE SetComputeRoot32BitConstants(UINT parameter, UINT constant_count,
                                                        const void* data, UINT to_offset) override {
        real()->SetComputeRoot32BitConstants(parameter, constant_count, data, to_offset);
    }
    void STDMETHODCALLTYPE SetGraphicsRoot32BitConstants(UINT parameter, UINT constant_count,
                                                         const void* data,
                                                         UINT to_offset) override {
        real()->SetGraphicsRoot32BitConstants(parameter, constant_count, data, to_offset);
    }
    void STDMETHODCALLTYPE
    SetComputeRootConstantBufferView(UINT parameter, D3D12_GPU_VIRTUAL_ADDRESS address) override {
        real()->SetComputeRootConstantBufferView(parameter, address);
    }
    void STDMETHODCALLTYPE
    SetGraphicsRootConstantBufferView(UINT parameter, D3D12_GPU_VIRTUAL_ADDRESS address) override {
        real()->SetGraphicsRootConstantBufferView(parameter, address);
    }
    void STDMETHODCALLTYPE
    SetComputeRootShaderResourceView(UINT parameter, D3D12_GPU_VIRTUAL_ADDRESS address) override {
        real()->SetComputeRootShaderResourceView(parameter, address);
    }
    void STDMETHODCALLTYPE
    SetGraphicsRootShaderResourceView(UINT parameter, D3D12_GPU_VIRTUAL_ADDRESS address) override {
        real()->SetGraphicsRootShaderResourceView(parameter, address);
    }
    void STDMETHODCALLTYPE
    SetComputeRootUnorderedAccessView(UINT parameter, D3D12_GPU_VIRTUAL_ADDRESS address) override {
        real()->SetComputeRootUnorderedAccessView(parameter, address);
    }
    void STDMETHODCALLTYPE
    SetGraphicsRootUnorderedAccessView(UINT parameter, D3D12_GPU_VIRTUAL_ADDRESS address) override {
        real()->SetGraphicsRootUnorderedAccessView(parameter, address);
    }
    void STDMETHODCALLTYPE IASetIndexBuffer(const D3D12_INDEX_BUFFER_VIEW* view) override {
        real()->IASetIndexBuffer(view);
    }
    void STDMETHODCALLTYPE IASetVertexBuffers(UINT start_slot, UINT view_count,
                                              const D3D12_VERTEX_BUFFER_VIEW* views) override {
        real()->IASetVertexBuffers(start_slot, view_count, views);
    }
    void STDMETHODCALLTYPE SOSetTargets(UINT start_slot, UINT view_count,
                                        const D3D12_STREAM_OUTPUT_BUFFER_VIEW* views) override {
        real()->SOSetTargets(start_slot, view_count, views);
    }
    void STDMETHODCALLTYPE OMSetRenderTargets(UINT count,
                                              const D3D12_CPU_DESCRIPTOR_HANDLE* targets,
                                              BOOL is_one_range,
                                              const D3D12_CPU_DESCRIPTOR_HANDLE* depth) override {
        real()->OMSetRenderTargets(count, targets, is_one_range, depth);
    }
    void STDMETHODCALLTYPE ClearDepthStencilView(D3D12_CPU_DESCRIPTOR_HANDLE dsv,
                                                 D3D12_CLEAR_FLAGS flags, FLOAT depth,
                                                 UINT8 stencil, UINT rect_count,
                                                 const D3D12_RECT* rects) override {
        real()->ClearDepthStencilView(dsv, flags, depth, stencil, rect_count, rects);
    }
    void STDMETHODCALLTYPE ClearRenderTargetView(D3D12_CPU_DESCRIPTOR_HANDLE rtv,
                                                 const FLOAT color[4], UINT rect_count,
                                                 const D3D12_RECT* rects) override {
        real()->ClearRenderTargetView(rtv, color, rect_count, rects);
    }
    void STDMETHODCALLTYPE ClearUnorderedAccessViewUint(D3D12_GPU_DESCRIPTOR_HANDLE gpu_handle,
                                                        D3D12_CPU_DESCRIPTOR_HANDLE cpu_handle,
                                                        ID3D12Resource* resource,
                                                        const UINT values[4], UINT rect_count,
                                                        const D3D12_RECT* rects) override {
        real()->ClearUnorderedAccessViewUint(gpu_handle, cpu_handle, resource, values, rect_count,
                                             rects);
    }
    void STDMETHODCALLTYPE ClearUnorderedAccessViewFloat(D3D12_GPU_DESCRIPTOR_HANDLE gpu_handle,
                                                         D3D12_CPU_DESCRIPTOR_HANDLE cpu_handle,
                                                         ID3D12Resource* resource,
                                                         const float values[4], UINT rect_count,
                                                         const D3D12_RECT* rects) override {
        real()->ClearUnorderedAccessViewFloat(gpu_handle, cpu_handle, resource, values, rect_count,
                                              rects);
    }
    void STDMETHODCALLTYPE DiscardResource(ID3D12Resource* resource,
                                           const D3D12_DISCARD_REGION* region) override {
        real()->DiscardResource(resource, region);
    }
    void STDMETHODCALLTYPE BeginQuery(ID3D12QueryHeap* heap, D3D12_QUERY_TYPE type,
                                      UINT index) override {
        real()->BeginQuery(heap, type, index);
    }
    void STDMETHODCALLTYPE EndQuery(ID3D12QueryHeap* heap, D3D12_QUERY_TYPE type,
                                    UINT index) override {
        real()->EndQuery(heap, type, index);
    }
    void STDMETHODCALLTYPE ResolveQueryData(ID3D12QueryHeap* heap, D3D12_QUERY_TYPE type,
                                            UINT start_index, UINT query_count,
                                            ID3D12Resource* to_buffer,
                                            UINT64 to_buffer_offset) override {
        real()->ResolveQueryData(heap, type, start_index, query_count, to_buffer, to_buffer_offset);
    }
    void STDMETHODCALLTYPE SetPredication(ID3D12Resource* buffer, UINT64 buffer_offset,
                                          D3D12_PREDICATION_OP operation) override {
        real()->SetPredication(buffer, buffer_offset, operation);
    }
    void STDMETHODCALLTYPE SetMarker(UINT metadata, const void* data, UINT size) override {
        real()->SetMarker(metadata, data, size);
    }
    void STDMETHODCALLTYPE BeginEvent(UINT metadata, const void* data, UINT size) override {
        real()->BeginEvent(metadata, data, size);
    }
    void STDMETHODCALLTYPE EndEvent() override { real()->EndEvent(); }
    void STDMETHODCALLTYPE ExecuteIndirect(ID3D12CommandSignature* command_signature,
                                           UINT max_command_count, ID3D12Resource* arguments,
                                           UINT64 arguments_offset, ID3D12Resource* count_buffer,
                                           UINT64 count_buffer_offset) override {
        real()->ExecuteIndirect(command_signature, max_command_count, arguments, arguments_offset,
                                count_buffer, count_buffer_offset);
    }
};

}  // namespace yl::d3d12
