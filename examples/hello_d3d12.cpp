// One texture to Direct3D 12, its descriptors, and back into a picture:
//     hello_d3d12 slate.png back.png
#include <cstdio>
#include <yl/d3d12.hpp>
#include <yl/yl.hpp>

using yl::or_exit;

namespace {

/// A descriptor heap of the program's, with room for one.
ID3D12DescriptorHeap* make_heap(ID3D12Device* device, D3D12_DESCRIPTOR_HEAP_TYPE type) {
    D3D12_DESCRIPTOR_HEAP_DESC desc{};
    desc.Type = type;
    desc.NumDescriptors = 1;
    desc.Flags = D3D12_DESCRIPTOR_HEAP_FLAG_SHADER_VISIBLE;
    ID3D12DescriptorHeap* heap = nullptr;
    const GUID id = {0x8efb471d, 0x616c, 0x4f49, {0x90, 0xf7, 0x12, 0x7b, 0xb7, 0x63, 0xfa, 0x51}};
    if (FAILED(device->CreateDescriptorHeap(&desc, id, reinterpret_cast<void**>(&heap))))
        std::exit(1);
    return heap;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 3)
        return std::fprintf(stderr, "usage: hello_d3d12 PICTURE OUT.png\n"), 2;
    const yl::d3d12::HeadlessDevice headless = or_exit(yl::d3d12::HeadlessDevice::create());
    yl::d3d12::Device device = or_exit(yl::d3d12::Device::open(headless.handles()));

    const yl::Baked baked = or_exit(yl::bake_file(argv[1], {.role = yl::Role::color}));
    const yl::d3d12::GpuTexture texture =
        or_exit(device.upload(baked.texture, {.role = yl::Role::color, .label = argv[1]}));
    for (const yl::Finding& finding : texture.findings())
        std::fprintf(stderr, "%s; %s\n", finding.problem.c_str(), finding.remedy.c_str());

    ID3D12Device* direct3d = headless.handles().device;
    ID3D12DescriptorHeap* views = make_heap(direct3d, D3D12_DESCRIPTOR_HEAP_TYPE_CBV_SRV_UAV);
    ID3D12DescriptorHeap* samplers = make_heap(direct3d, D3D12_DESCRIPTOR_HEAP_TYPE_SAMPLER);
    texture.write_view(views->GetCPUDescriptorHandleForHeapStart());
    texture.write_sampler(samplers->GetCPUDescriptorHandleForHeapStart());

    const yl::Texture back = or_exit(texture.read_back(2, 0, 0));
    or_exit(yl::write_picture(argv[2], back.image(0)));
    std::printf("%u levels on %s, of which number 2 has %u x %u texels\n", texture.shape().levels,
                device.profile().name.c_str(), back.shape().width, back.shape().height);
    samplers->Release();
    views->Release();
}
