// A queue and a fence that hand every call on.
#pragma once

#include "upload/d3d12/rules/forwarded.hpp"

namespace yl::d3d12 {

class ForwardedQueue : public ForwardedChild<ID3D12CommandQueue, ID3D12Pageable> {
 public:
    using ForwardedChild::ForwardedChild;

    void STDMETHODCALLTYPE
    UpdateTileMappings(ID3D12Resource* resource, UINT region_count,
                       const D3D12_TILED_RESOURCE_COORDINATE* region_start_coordinates,
                       const D3D12_TILE_REGION_SIZE* region_sizes, UINT range_count,
                       const D3D12_TILE_RANGE_FLAGS* range_flags, UINT* heap_range_offsets,
                       UINT* range_tile_counts, D3D12_TILE_MAPPING_FLAGS flags) override {
        real()->UpdateTileMappings(resource, region_count, region_start_coordinates, region_sizes,
                                   range_count, range_flags, heap_range_offsets, range_tile_counts,
                                   flags);
    }
    void STDMETHODCALLTYPE CopyTileMappings(
        ID3D12Resource* to_resource,
        const D3D12_TILED_RESOURCE_COORDINATE* to_region_start_coordinate,
        ID3D12Resource* from_resource,
        const D3D12_TILED_RESOURCE_COORDINATE* from_region_start_coordinate,
        const D3D12_TILE_REGION_SIZE* region_size, D3D12_TILE_MAPPING_FLAGS flags) override {
        real()->CopyTileMappings(to_resource, to_region_start_coordinate, from_resource,
                                 from_region_start_coordinate, region_size, flags);
    }
    void STDMETHODCALLTYPE ExecuteCommandLists(UINT count,
                                               ID3D12CommandList* const* lists) override {
        real()->ExecuteCommandLists(count, lists);
    }
    void STDMETHODCALLTYPE SetMarker(UINT metadata, const void* data, UINT size) override {
        real()->SetMarker(metadata, data, size);
    }
    void STDMETHODCALLTYPE BeginEvent(UINT metadata, const void* data, UINT size) override {
        real()->BeginEvent(metadata, data, size);
    }
    void STDMETHODCALLTYPE EndEvent() override { real()->EndEvent(); }
    HRESULT STDMETHODCALLTYPE Signal(ID3D12Fence* fence, UINT64 value) override {
        return real()->Signal(fence, value);
    }
    HRESULT STDMETHODCALLTYPE Wait(ID3D12Fence* fence, UINT64 value) override {
        return real()->Wait(fence, value);
    }
    HRESULT STDMETHODCALLTYPE GetTimestampFrequency(UINT64* frequency) override {
        return real()->GetTimestampFrequency(frequency);
    }
    HRESULT STDMETHODCALLTYPE GetClockCalibration(UINT64* gpu_timestamp,
                                                  UINT64* cpu_timestamp) override {
        return real()->GetClockCalibration(gpu_timestamp, cpu_timestamp);
    }
#ifdef WIDL_EXPLICIT_AGGREGATE_RETURNS
    D3D12_COMMAND_QUEUE_DESC* STDMETHODCALLTYPE GetDesc(D3D12_COMMAND_QUEUE_DESC* result) override {
        return real()->GetDesc(result);
    }
#else
    D3D12_COMMAND_QUEUE_DESC STDMETHODCALLTYPE GetDesc() override {
        return real()->GetDesc();
    }
#endif
};

class ForwardedFence : public ForwardedChild<ID3D12Fence, ID3D12Pageable> {
 public:
    using ForwardedChild::ForwardedChild;

    UINT64 STDMETHODCALLTYPE GetCompletedValue() override { return real()->GetCompletedValue(); }
    HRESULT STDMETHODCALLTYPE SetEventOnCompletion(UINT64 value, HANDLE event) override {
        return real()->SetEventOnCompletion(value, event);
    }
    HRESULT STDMETHODCALLTYPE Signal(UINT64 value) override { return real()->Signal(value); }
};

}  // namespace yl::d3d12
