#include "render/d3d12/picture.hpp"

#include <cstring>

#include <yl/status_macros.hpp>
#include "render/d3d12/scene_shaders.hpp"
#include "upload/d3d12/root_signature.hpp"

namespace yl::d3d12 {
namespace {

constexpr DXGI_FORMAT target_format = DXGI_FORMAT_R8G8B8A8_UNORM_SRGB;

Result<Owned<ID3D12DescriptorHeap>> make_heap(ID3D12Device* device,
                                              D3D12_DESCRIPTOR_HEAP_TYPE type) {
    D3D12_DESCRIPTOR_HEAP_DESC desc{};
    desc.Type = type;
    desc.NumDescriptors = 1;
    if (type != D3D12_DESCRIPTOR_HEAP_TYPE_RTV)
        desc.Flags = D3D12_DESCRIPTOR_HEAP_FLAG_SHADER_VISIBLE;
    Owned<ID3D12DescriptorHeap> heap;
    YL_CHECK(
        check(device->CreateDescriptorHeap(&desc, iid_of<ID3D12DescriptorHeap>(), heap.place()),
              "make a heap of descriptors"));
    return heap;
}

/// The picture that is drawn to.
struct Target {
    Owned<ID3D12Resource> resource = {};
    Owned<ID3D12DescriptorHeap> heap = {};
    D3D12_RESOURCE_DESC desc = {};
};

Result<Target> make_target(ID3D12Device* device, std::uint32_t width, std::uint32_t height) {
    Target target;
    target.desc.Dimension = D3D12_RESOURCE_DIMENSION_TEXTURE2D;
    target.desc.Width = width;
    target.desc.Height = height;
    target.desc.DepthOrArraySize = target.desc.MipLevels = 1;
    target.desc.Format = target_format;
    target.desc.SampleDesc.Count = 1;
    target.desc.Flags = D3D12_RESOURCE_FLAG_ALLOW_RENDER_TARGET;
    D3D12_HEAP_PROPERTIES memory{};
    memory.Type = D3D12_HEAP_TYPE_DEFAULT;
    YL_CHECK(
        check(device->CreateCommittedResource(&memory, D3D12_HEAP_FLAG_NONE, &target.desc,
                                              D3D12_RESOURCE_STATE_RENDER_TARGET, nullptr,
                                              iid_of<ID3D12Resource>(), target.resource.place()),
              "make a picture to draw to"));
    YL_TRY(target.heap, make_heap(device, D3D12_DESCRIPTOR_HEAP_TYPE_RTV));
    device->CreateRenderTargetView(target.resource.get(), nullptr,
                                   target.heap->GetCPUDescriptorHandleForHeapStart());
    return target;
}

/// Numbers at b0, a table with the texture at t0, and one with the sampler at s0.
Result<Owned<ID3D12RootSignature>> make_root_signature(ID3D12Device* device) {
    D3D12_DESCRIPTOR_RANGE ranges[2]{};
    D3D12_ROOT_PARAMETER parameters[3]{};
    for (std::size_t i = 0; i < 2; ++i) {
        ranges[i].RangeType =
            i == 0 ? D3D12_DESCRIPTOR_RANGE_TYPE_SRV : D3D12_DESCRIPTOR_RANGE_TYPE_SAMPLER;
        ranges[i].NumDescriptors = 1;
        parameters[1 + i].ParameterType = D3D12_ROOT_PARAMETER_TYPE_DESCRIPTOR_TABLE;
        parameters[1 + i].DescriptorTable.NumDescriptorRanges = 1;
        parameters[1 + i].DescriptorTable.pDescriptorRanges = &ranges[i];
        parameters[1 + i].ShaderVisibility = D3D12_SHADER_VISIBILITY_PIXEL;
    }
    parameters[0].ParameterType = D3D12_ROOT_PARAMETER_TYPE_CBV;
    parameters[0].ShaderVisibility = D3D12_SHADER_VISIBILITY_PIXEL;
    D3D12_ROOT_SIGNATURE_DESC desc{};
    desc.NumParameters = 3;
    desc.pParameters = parameters;
    YL_TRY(const Owned<ID3DBlob> blob, serialize(desc));
    Owned<ID3D12RootSignature> signature;
    YL_CHECK(check(device->CreateRootSignature(0, blob->GetBufferPointer(), blob->GetBufferSize(),
                                               iid_of<ID3D12RootSignature>(), signature.place()),
                   "make a root signature"));
    return signature;
}

Result<Owned<ID3D12PipelineState>> make_pipeline(ID3D12Device* device,
                                                 ID3D12RootSignature* signature,
                                                 std::span<const std::byte> pixel_shader) {
    const std::vector<std::byte> triangle = triangle_shader();
    D3D12_GRAPHICS_PIPELINE_STATE_DESC desc{};
    desc.pRootSignature = signature;
    desc.VS = {triangle.data(), triangle.size()};
    desc.PS = {pixel_shader.data(), pixel_shader.size()};
    desc.BlendState.RenderTarget[0].RenderTargetWriteMask = 15;
    desc.SampleMask = ~0U;
    desc.RasterizerState.FillMode = D3D12_FILL_MODE_SOLID;
    desc.RasterizerState.CullMode = D3D12_CULL_MODE_NONE;
    desc.RasterizerState.DepthClipEnable = TRUE;
    desc.PrimitiveTopologyType = D3D12_PRIMITIVE_TOPOLOGY_TYPE_TRIANGLE;
    desc.NumRenderTargets = 1;
    desc.RTVFormats[0] = target_format;
    desc.SampleDesc.Count = 1;
    Owned<ID3D12PipelineState> pipeline;
    YL_CHECK(check(
        device->CreateGraphicsPipelineState(&desc, iid_of<ID3D12PipelineState>(), pipeline.place()),
        "make a pipeline"));
    return pipeline;
}

void record_triangle(ID3D12GraphicsCommandList* commands, const Target& target) {
    const D3D12_CPU_DESCRIPTOR_HANDLE view = target.heap->GetCPUDescriptorHandleForHeapStart();
    commands->OMSetRenderTargets(1, &view, FALSE, nullptr);
    const D3D12_VIEWPORT viewport = {
        0, 0, static_cast<float>(target.desc.Width), static_cast<float>(target.desc.Height), 0, 1};
    const D3D12_RECT scissor = {0, 0, static_cast<LONG>(target.desc.Width),
                                static_cast<LONG>(target.desc.Height)};
    commands->RSSetViewports(1, &viewport);
    commands->RSSetScissorRects(1, &scissor);
    commands->IASetPrimitiveTopology(D3D_PRIMITIVE_TOPOLOGY_TRIANGLELIST);
    commands->DrawInstanced(3, 1, 0, 0);
}

void record_read_back(ID3D12GraphicsCommandList* commands, const Target& target,
                      const D3D12_PLACED_SUBRESOURCE_FOOTPRINT& footprint, ID3D12Resource* buffer) {
    D3D12_RESOURCE_BARRIER barrier{};
    barrier.Type = D3D12_RESOURCE_BARRIER_TYPE_TRANSITION;
    barrier.Transition.pResource = target.resource.get();
    barrier.Transition.StateBefore = D3D12_RESOURCE_STATE_RENDER_TARGET;
    barrier.Transition.StateAfter = D3D12_RESOURCE_STATE_COPY_SOURCE;
    commands->ResourceBarrier(1, &barrier);
    D3D12_TEXTURE_COPY_LOCATION from{}, to{};
    from.pResource = target.resource.get();
    from.Type = D3D12_TEXTURE_COPY_TYPE_SUBRESOURCE_INDEX;
    to.pResource = buffer;
    to.Type = D3D12_TEXTURE_COPY_TYPE_PLACED_FOOTPRINT;
    to.PlacedFootprint = footprint;
    commands->CopyTextureRegion(&to, 0, 0, 0, &from, nullptr);
}

}  // namespace

Result<Image> draw_picture(Context& context, std::span<const std::byte> pixel_shader,
                           std::uint32_t width, std::uint32_t height, const GpuTexture& texture,
                           std::span<const float> numbers) {
    constexpr std::uint64_t constants_alignment = 256;
    ID3D12Device* device = context.device();
    YL_TRY(Image picture, Image::create(Format::rgba8_srgb, width, height));
    YL_TRY(const Target target, make_target(device, width, height));
    YL_TRY(const Owned<ID3D12RootSignature> signature, make_root_signature(device));
    YL_TRY(const Owned<ID3D12PipelineState> pipeline,
           make_pipeline(device, signature.get(), pixel_shader));
    YL_TRY(const Owned<ID3D12DescriptorHeap> views,
           make_heap(device, D3D12_DESCRIPTOR_HEAP_TYPE_CBV_SRV_UAV));
    YL_TRY(const Owned<ID3D12DescriptorHeap> samplers,
           make_heap(device, D3D12_DESCRIPTOR_HEAP_TYPE_SAMPLER));
    texture.write_view(views->GetCPUDescriptorHandleForHeapStart());
    texture.write_sampler(samplers->GetCPUDescriptorHandleForHeapStart());
    YL_TRY(const HostBuffer block,
           HostBuffer::create(device,
                              (numbers.size_bytes() + constants_alignment - 1) /
                                  constants_alignment * constants_alignment,
                              D3D12_HEAP_TYPE_UPLOAD));
    std::memcpy(block.mapped, numbers.data(), numbers.size_bytes());
    D3D12_PLACED_SUBRESOURCE_FOOTPRINT footprint{};
    UINT64 bytes = 0;
    device->GetCopyableFootprints(&target.desc, 0, 1, 0, &footprint, nullptr, nullptr, &bytes);
    YL_TRY(const HostBuffer out, HostBuffer::create(device, bytes, D3D12_HEAP_TYPE_READBACK));
    const auto draw = [&](const Recording& recording) {
        ID3D12GraphicsCommandList* commands = recording.commands;
        ID3D12DescriptorHeap* heaps[] = {views.get(), samplers.get()};
        commands->SetDescriptorHeaps(2, heaps);
        commands->SetGraphicsRootSignature(signature.get());
        commands->SetPipelineState(pipeline.get());
        commands->SetGraphicsRootConstantBufferView(0, block.resource->GetGPUVirtualAddress());
        commands->SetGraphicsRootDescriptorTable(1, views->GetGPUDescriptorHandleForHeapStart());
        commands->SetGraphicsRootDescriptorTable(2, samplers->GetGPUDescriptorHandleForHeapStart());
        record_triangle(commands, target);
        record_read_back(commands, target, footprint, out.resource.get());
    };
    YL_TRY(const std::uint64_t submission, context.staging->submit(0, Route::direct, draw));
    YL_CHECK(context.staging->wait(submission));
    for (std::uint32_t y = 0; y < height; ++y)
        std::memcpy(picture.view().row(y).data(),
                    out.mapped + std::size_t{y} * footprint.Footprint.RowPitch,
                    std::size_t{width} * 4);
    return picture;
}

}  // namespace yl::d3d12
