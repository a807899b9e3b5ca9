#include "upload/d3d12/rules/views.hpp"

#include <algorithm>
#include <limits>

#include "upload/d3d12/root_signature.hpp"
#include "upload/d3d12/rules/copy_rules.hpp"

namespace yl::d3d12 {
namespace {

constexpr UINT all = std::numeric_limits<UINT>::max();

struct Range {
    UINT level = 0, levels = all;
    UINT slice = 0, slices = all;
};

View view_of(const D3D12_RESOURCE_DESC& of, const Range& range, D3D12_RESOURCE_STATES state) {
    View view;
    view.written_in = state;
    const UINT levels = std::max<UINT>(of.MipLevels, 1);
    const UINT slices = subresource_count(of) / levels;
    const auto end = [](UINT first, UINT count, UINT limit) {
        return first + std::min(count, limit - std::min(first, limit));
    };
    for (UINT slice = range.slice; slice < end(range.slice, range.slices, slices); ++slice)
        for (UINT level = range.level; level < end(range.level, range.levels, levels); ++level)
            view.subresources.push_back(level + slice * levels);
    return view;
}

Range range_of(const D3D12_SHADER_RESOURCE_VIEW_DESC& desc) {
    const auto plain = [](const auto& levels) {
        return Range{levels.MostDetailedMip, levels.MipLevels, 0, all};
    };
    const auto array = [](const auto& levels) {
        return Range{levels.MostDetailedMip, levels.MipLevels, levels.FirstArraySlice,
                     levels.ArraySize};
    };
    constexpr UINT faces = 6;
    switch (desc.ViewDimension) {
        case D3D12_SRV_DIMENSION_TEXTURE1D:
            return plain(desc.Texture1D);
        case D3D12_SRV_DIMENSION_TEXTURE1DARRAY:
            return array(desc.Texture1DArray);
        case D3D12_SRV_DIMENSION_TEXTURE2D:
            return plain(desc.Texture2D);
        case D3D12_SRV_DIMENSION_TEXTURE2DARRAY:
            return array(desc.Texture2DArray);
        case D3D12_SRV_DIMENSION_TEXTURE3D:
            return plain(desc.Texture3D);
        case D3D12_SRV_DIMENSION_TEXTURECUBE:
            return plain(desc.TextureCube);
        case D3D12_SRV_DIMENSION_TEXTURECUBEARRAY:
            return {desc.TextureCubeArray.MostDetailedMip, desc.TextureCubeArray.MipLevels,
                    desc.TextureCubeArray.First2DArrayFace, desc.TextureCubeArray.NumCubes * faces};
        default:
            return {};
    }
}

Range range_of(const D3D12_RENDER_TARGET_VIEW_DESC& desc) {
    switch (desc.ViewDimension) {
        case D3D12_RTV_DIMENSION_TEXTURE2D:
            return {desc.Texture2D.MipSlice, 1, 0, 1};
        case D3D12_RTV_DIMENSION_TEXTURE2DARRAY:
            return {desc.Texture2DArray.MipSlice, 1, desc.Texture2DArray.FirstArraySlice,
                    desc.Texture2DArray.ArraySize};
        case D3D12_RTV_DIMENSION_TEXTURE3D:
            return {desc.Texture3D.MipSlice, 1, 0, 1};
        default:
            return {0, 1, 0, 1};
    }
}

}  // namespace

View sampled_view(const D3D12_RESOURCE_DESC& of, const D3D12_SHADER_RESOURCE_VIEW_DESC* desc) {
    return view_of(of, desc != nullptr ? range_of(*desc) : Range{}, D3D12_RESOURCE_STATE_COMMON);
}

View target_view(const D3D12_RESOURCE_DESC& of, const D3D12_RENDER_TARGET_VIEW_DESC* desc) {
    return view_of(of, desc != nullptr ? range_of(*desc) : Range{0, 1, 0, all},
                   D3D12_RESOURCE_STATE_RENDER_TARGET);
}

View depth_view(const D3D12_RESOURCE_DESC& of, const D3D12_DEPTH_STENCIL_VIEW_DESC* desc) {
    const bool is_read_only = desc != nullptr && (static_cast<unsigned>(desc->Flags) &
                                                  D3D12_DSV_FLAG_READ_ONLY_DEPTH) != 0;
    Range range{0, 1, 0, all};
    if (desc != nullptr && desc->ViewDimension == D3D12_DSV_DIMENSION_TEXTURE2D)
        range = {desc->Texture2D.MipSlice, 1, 0, 1};
    else if (desc != nullptr && desc->ViewDimension == D3D12_DSV_DIMENSION_TEXTURE2DARRAY)
        range = {desc->Texture2DArray.MipSlice, 1, desc->Texture2DArray.FirstArraySlice,
                 desc->Texture2DArray.ArraySize};
    return view_of(
        of, range,
        is_read_only ? D3D12_RESOURCE_STATE_DEPTH_READ : D3D12_RESOURCE_STATE_DEPTH_WRITE);
}

std::map<UINT, Table> tables_of(std::span<const std::byte> signature) {
    std::map<UINT, Table> tables;
    const auto read = deserialize(signature);
    if (!read)
        return tables;
    const D3D12_ROOT_SIGNATURE_DESC& desc = *(*read)->GetRootSignatureDesc();
    for (UINT i = 0; i < desc.NumParameters; ++i) {
        const D3D12_ROOT_PARAMETER& parameter = desc.pParameters[i];
        if (parameter.ParameterType != D3D12_ROOT_PARAMETER_TYPE_DESCRIPTOR_TABLE)
            continue;
        Table table;
        table.is_for_pixels = parameter.ShaderVisibility == D3D12_SHADER_VISIBILITY_PIXEL ||
                              parameter.ShaderVisibility == D3D12_SHADER_VISIBILITY_ALL;
        UINT next = 0;
        for (UINT r = 0; r < parameter.DescriptorTable.NumDescriptorRanges; ++r) {
            const D3D12_DESCRIPTOR_RANGE& range = parameter.DescriptorTable.pDescriptorRanges[r];
            const UINT offset =
                range.OffsetInDescriptorsFromTableStart == D3D12_DESCRIPTOR_RANGE_OFFSET_APPEND
                    ? next
                    : range.OffsetInDescriptorsFromTableStart;
            next = offset + range.NumDescriptors;
            if (range.RangeType == D3D12_DESCRIPTOR_RANGE_TYPE_SRV)
                table.ranges.push_back({offset, range.NumDescriptors});
        }
        tables[i] = std::move(table);
    }
    return tables;
}

}  // namespace yl::d3d12
