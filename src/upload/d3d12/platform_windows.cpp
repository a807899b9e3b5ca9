// Windows' own events and adapters.
#include "upload/d3d12/platform.hpp"

#include <dxgi1_4.h>

#include <yl/status_macros.hpp>

namespace yl::d3d12 {

Status wait_for(ID3D12Fence* fence, std::uint64_t value, ID3D12CommandQueue*) {
    // Without an event the call returns when the fence has the value.
    return check(fence->SetEventOnCompletion(value, nullptr), "wait for a fence");
}

Status let_queue_wait(ID3D12CommandQueue* queue, ID3D12Fence* fence, std::uint64_t value,
                      ID3D12CommandQueue*) {
    return check(queue->Wait(fence, value), "let a queue wait");
}

Result<OpenedDevice> open_device(const std::string& name) {
    Owned<IDXGIFactory4> factory;
    YL_CHECK(
        check(CreateDXGIFactory1(iid_of<IDXGIFactory4>(), factory.place()), "list the adapters"));
    Owned<IDXGIAdapter1> adapter;
    std::string names;
    for (UINT i = 0;
         factory->EnumAdapters1(i, reinterpret_cast<IDXGIAdapter1**>(adapter.place())) == S_OK;
         ++i) {
        DXGI_ADAPTER_DESC1 desc{};
        YL_CHECK(check(adapter->GetDesc1(&desc), "describe an adapter"));
        OpenedDevice opened;
        for (const wchar_t* letter = desc.Description; *letter != 0; ++letter)
            opened.name += *letter < 128 ? static_cast<char>(*letter) : '?';
        names += (names.empty() ? "" : ", ") + opened.name;
        if (opened.name.find(name) == std::string::npos)
            continue;
        YL_CHECK(check(D3D12CreateDevice(adapter.get(), D3D_FEATURE_LEVEL_11_0,
                                         iid_of<ID3D12Device>(), opened.device.place()),
                       "create a device"));
        return opened;
    }
    return fail(ErrorKind::device, "there is no adapter '" + name + "'; there are " + names);
}

bool lacks_format(DXGI_FORMAT) {
    return false;
}

bool has_all_address_modes() {
    return true;
}

}  // namespace yl::d3d12
