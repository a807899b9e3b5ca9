#include "upload/d3d12/context.hpp"

#include <fmt/format.h>

#include <yl/status_macros.hpp>

namespace yl::d3d12 {

Status check(HRESULT result, const char* what) {
    if (SUCCEEDED(result))
        return {};
    const auto code = static_cast<std::uint32_t>(result);
    constexpr std::uint32_t out_of_memory = 0x8007000E, removed = 0x887A0005, hung = 0x887A0006,
                            reset = 0x887A0007, internal = 0x887A0020;
    switch (code) {
        case out_of_memory:
            return fail(ErrorKind::memory,
                        fmt::format("Direct3D has no memory left to {} ({:#010x})", what, code));
        case removed:
        case hung:
        case reset:
        case internal:
            return fail(ErrorKind::device,
                        fmt::format("the Direct3D device was removed on the way to {} ({:#010x})",
                                    what, code));
        default:
            return fail(ErrorKind::device,
                        fmt::format("Direct3D refused to {} ({:#010x})", what, code));
    }
}

Context::~Context() {
    staging.reset();  // waits for what is under way
}

Result<HostBuffer> HostBuffer::create(ID3D12Device* device, std::uint64_t bytes,
                                      D3D12_HEAP_TYPE type) {
    D3D12_HEAP_PROPERTIES heap{};
    heap.Type = type;
    D3D12_RESOURCE_DESC desc{};
    desc.Dimension = D3D12_RESOURCE_DIMENSION_BUFFER;
    desc.Width = bytes;
    desc.Height = desc.DepthOrArraySize = desc.MipLevels = 1;
    desc.SampleDesc.Count = 1;
    desc.Layout = D3D12_TEXTURE_LAYOUT_ROW_MAJOR;
    HostBuffer buffer;
    const bool is_upload = type == D3D12_HEAP_TYPE_UPLOAD;
    YL_CHECK(
        check(device->CreateCommittedResource(
                  &heap, D3D12_HEAP_FLAG_NONE, &desc,
                  is_upload ? D3D12_RESOURCE_STATE_GENERIC_READ : D3D12_RESOURCE_STATE_COPY_DEST,
                  nullptr, iid_of<ID3D12Resource>(), buffer.resource.place()),
              "make a buffer"));
    void* mapped = nullptr;
    const D3D12_RANGE nothing{0, 0};  // is read before the first copy
    YL_CHECK(
        check(buffer.resource->Map(0, is_upload ? &nothing : nullptr, &mapped), "map a buffer"));
    buffer.mapped = static_cast<std::byte*>(mapped);
    buffer.bytes = bytes;
    return buffer;
}

}  // namespace yl::d3d12
