#include "upload/d3d12/resource.hpp"

#include <yl/status_macros.hpp>
#include "base/checked.hpp"

namespace yl::d3d12 {

void ResourceParts::change(ID3D12GraphicsCommandList* commands, std::uint32_t level,
                           D3D12_RESOURCE_STATES state) {
    if (states[level] == state)
        return;
    std::vector<D3D12_RESOURCE_BARRIER> barriers(slices);
    for (std::uint32_t slice = 0; slice < slices; ++slice) {
        D3D12_RESOURCE_BARRIER& barrier = barriers[slice];
        barrier = {};
        barrier.Type = D3D12_RESOURCE_BARRIER_TYPE_TRANSITION;
        barrier.Transition.pResource = resource.get();
        barrier.Transition.Subresource = subresource(level, slice);
        barrier.Transition.StateBefore = states[level];
        barrier.Transition.StateAfter = state;
    }
    commands->ResourceBarrier(slices, barriers.data());
    states[level] = state;
}

DXGI_FORMAT typeless(DXGI_FORMAT format) {
    switch (format) {
        case DXGI_FORMAT_R8G8B8A8_UNORM:
        case DXGI_FORMAT_R8G8B8A8_UNORM_SRGB:
            return DXGI_FORMAT_R8G8B8A8_TYPELESS;
        case DXGI_FORMAT_B8G8R8A8_UNORM:
        case DXGI_FORMAT_B8G8R8A8_UNORM_SRGB:
            return DXGI_FORMAT_B8G8R8A8_TYPELESS;
        case DXGI_FORMAT_BC1_UNORM:
        case DXGI_FORMAT_BC1_UNORM_SRGB:
            return DXGI_FORMAT_BC1_TYPELESS;
        case DXGI_FORMAT_BC2_UNORM:
        case DXGI_FORMAT_BC2_UNORM_SRGB:
            return DXGI_FORMAT_BC2_TYPELESS;
        case DXGI_FORMAT_BC3_UNORM:
        case DXGI_FORMAT_BC3_UNORM_SRGB:
            return DXGI_FORMAT_BC3_TYPELESS;
        case DXGI_FORMAT_BC7_UNORM:
        case DXGI_FORMAT_BC7_UNORM_SRGB:
            return DXGI_FORMAT_BC7_TYPELESS;
        default:
            return format;
    }
}

namespace {

D3D12_RESOURCE_DIMENSION dimension_of(const TextureShape& shape) {
    return shape.dimensions() == 1   ? D3D12_RESOURCE_DIMENSION_TEXTURE1D
           : shape.dimensions() == 3 ? D3D12_RESOURCE_DIMENSION_TEXTURE3D
                                     : D3D12_RESOURCE_DIMENSION_TEXTURE2D;
}

D3D12_RESOURCE_DESC describe(const TextureShape& shape, const ResourceOptions& options) {
    const auto format = static_cast<DXGI_FORMAT>(info(shape.format).dxgi);
    D3D12_RESOURCE_DESC desc{};
    desc.Dimension = dimension_of(shape);
    desc.Width = shape.width;
    desc.Height = shape.height;
    desc.DepthOrArraySize =
        static_cast<UINT16>(shape.dimensions() == 3 ? shape.depth : shape.layers * shape.faces);
    desc.MipLevels = static_cast<UINT16>(shape.levels);
    desc.Format = options.is_typeless ? typeless(format) : format;
    desc.SampleDesc.Count = 1;
    desc.Flags = options.flags;
    return desc;
}

Status make_placed(const Context& context, ResourceParts& parts) {
    return check(
        context.device()->CreatePlacedResource(parts.placement.heap(), parts.placement.offset(),
                                               &parts.desc, D3D12_RESOURCE_STATE_COMMON, nullptr,
                                               iid_of<ID3D12Resource>(), parts.resource.place()),
        "place a texture in a heap");
}

Status make_committed(const Context& context, ResourceParts& parts) {
    D3D12_HEAP_PROPERTIES heap{};
    heap.Type = D3D12_HEAP_TYPE_DEFAULT;
    return check(context.device()->CreateCommittedResource(
                     &heap, D3D12_HEAP_FLAG_NONE, &parts.desc, D3D12_RESOURCE_STATE_COMMON, nullptr,
                     iid_of<ID3D12Resource>(), parts.resource.place()),
                 "make a texture");
}

}  // namespace

Result<std::shared_ptr<ResourceParts>> make_resource(Context& context, const TextureShape& shape,
                                                     const std::string& label,
                                                     const ResourceOptions& options) {
    auto parts = std::make_shared<ResourceParts>();
    parts->desc = describe(shape, options);
    parts->slices = shape.layers * shape.faces;
    parts->states.assign(shape.levels, D3D12_RESOURCE_STATE_COMMON);
    parts->written.assign(shape.levels, false);
    if (context.handles.make_resource) {
        YL_TRY(ID3D12Resource * made, context.handles.make_resource(parts->desc));
        if (made == nullptr)
            return fail(ErrorKind::usage, "make_resource gave no resource");
        parts->resource = Owned<ID3D12Resource>(made);
    } else {
        if (!options.is_committed) {
            YL_TRY(parts->placement, context.heaps->place(shape, parts->desc));
        }
        YL_CHECK(parts->placement ? make_placed(context, *parts) : make_committed(context, *parts));
    }
    if (!label.empty()) {
        const std::basic_string<WCHAR> name(label.begin(), label.end());
        YL_CHECK(check(parts->resource->SetName(name.c_str()), "name a texture"));
    }
    return parts;
}

void record_copies(ID3D12GraphicsCommandList* commands, const ResourceParts& parts,
                   const UploadPlan& plan, const UploadBatch& batch, ID3D12Resource* buffer,
                   std::uint64_t offset) {
    const FormatInfo& f = info(plan.shape.format);
    for (const UploadRegion& region : plan.regions_of(batch)) {
        D3D12_TEXTURE_COPY_LOCATION to{};
        to.pResource = parts.resource.get();
        to.Type = D3D12_TEXTURE_COPY_TYPE_SUBRESOURCE_INDEX;
        to.SubresourceIndex =
            parts.subresource(region.level, region.layer * plan.shape.faces + region.face);
        D3D12_TEXTURE_COPY_LOCATION from{};
        from.pResource = buffer;
        from.Type = D3D12_TEXTURE_COPY_TYPE_PLACED_FOOTPRINT;
        from.PlacedFootprint.Offset = offset + region.offset;
        D3D12_SUBRESOURCE_FOOTPRINT& footprint = from.PlacedFootprint.Footprint;
        footprint.Format = parts.desc.Format;
        footprint.Width = static_cast<UINT>(round_up(region.width, f.block_width));
        footprint.Height = static_cast<UINT>(round_up(region.height, f.block_height));
        footprint.Depth = region.depth;
        footprint.RowPitch = static_cast<UINT>(region.row_pitch);
        commands->CopyTextureRegion(&to, region.x, region.y, region.z, &from, nullptr);
    }
}

namespace {

UINT component(SwizzleSource source) {
    constexpr UINT zero = 4, one = 5;  // D3D12_SHADER_COMPONENT_MAPPING_FORCE_VALUE_0 and _1
    return source == SwizzleSource::zero  ? zero
           : source == SwizzleSource::one ? one
                                          : static_cast<UINT>(source);
}

}  // namespace

D3D12_SHADER_RESOURCE_VIEW_DESC make_view(const TextureShape& shape, DXGI_FORMAT format,
                                          const Swizzle& swizzle, LevelRange range) {
    D3D12_SHADER_RESOURCE_VIEW_DESC view{};
    view.Format = format;
    view.Shader4ComponentMapping = static_cast<UINT>(
        D3D12_ENCODE_SHADER_4_COMPONENT_MAPPING(component(swizzle[0]), component(swizzle[1]),
                                                component(swizzle[2]), component(swizzle[3])));
    const bool is_array = shape.is_array || shape.layers > 1;
    const auto set = [&](D3D12_SRV_DIMENSION dimension, auto& levels) {
        view.ViewDimension = dimension;
        levels.MostDetailedMip = range.first;
        levels.MipLevels = range.count;
    };
    if (shape.faces == 6 && is_array) {
        set(D3D12_SRV_DIMENSION_TEXTURECUBEARRAY, view.TextureCubeArray);
        view.TextureCubeArray.NumCubes = shape.layers;
    } else if (shape.faces == 6) {
        set(D3D12_SRV_DIMENSION_TEXTURECUBE, view.TextureCube);
    } else if (shape.dimensions() == 3) {
        set(D3D12_SRV_DIMENSION_TEXTURE3D, view.Texture3D);
    } else if (shape.dimensions() == 1 && is_array) {
        set(D3D12_SRV_DIMENSION_TEXTURE1DARRAY, view.Texture1DArray);
        view.Texture1DArray.ArraySize = shape.layers;
    } else if (shape.dimensions() == 1) {
        set(D3D12_SRV_DIMENSION_TEXTURE1D, view.Texture1D);
    } else if (is_array) {
        set(D3D12_SRV_DIMENSION_TEXTURE2DARRAY, view.Texture2DArray);
        view.Texture2DArray.ArraySize = shape.layers;
    } else {
        set(D3D12_SRV_DIMENSION_TEXTURE2D, view.Texture2D);
    }
    return view;
}

D3D12_SAMPLER_DESC make_sampler(const Sampler& sampler) {
    const D3d12Sampler values = d3d12_sampler(sampler);
    D3D12_SAMPLER_DESC desc{};
    desc.Filter = static_cast<D3D12_FILTER>(values.filter);
    desc.AddressU = static_cast<D3D12_TEXTURE_ADDRESS_MODE>(values.address_mode[0]);
    desc.AddressV = static_cast<D3D12_TEXTURE_ADDRESS_MODE>(values.address_mode[1]);
    desc.AddressW = static_cast<D3D12_TEXTURE_ADDRESS_MODE>(values.address_mode[2]);
    desc.MipLODBias = sampler.level_bias;
    desc.MaxAnisotropy = values.max_anisotropy;
    desc.ComparisonFunc = static_cast<D3D12_COMPARISON_FUNC>(values.comparison_func);
    for (std::size_t c = 0; c < 4; ++c)
        desc.BorderColor[c] = sampler.border[c];
    desc.MinLOD = values.min_lod;
    desc.MaxLOD = values.max_lod;
    return desc;
}

}  // namespace yl::d3d12
