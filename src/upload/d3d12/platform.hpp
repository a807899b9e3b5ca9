// What differs between Windows and libvkd3d: waiting, and devices without a window. One of
// platform_vkd3d.cpp and platform_windows.cpp is built.
#pragma once

#include "upload/d3d12/com.hpp"

namespace yl::d3d12 {

/// Blocks until the fence has this value, which `queue` signals.
[[nodiscard]] Status wait_for(ID3D12Fence* fence, std::uint64_t value, ID3D12CommandQueue* queue);

/// Lets a queue begin nothing more before the fence has this value, which another signals.
[[nodiscard]] Status let_queue_wait(ID3D12CommandQueue* queue, ID3D12Fence* fence,
                                    std::uint64_t value, ID3D12CommandQueue* signalling);

struct OpenedDevice {
    Owned<ID3D12Device> device = {};
    std::string name = {};
};

/// A device of feature level 11.0 whose name has `name` in it.
[[nodiscard]] Result<OpenedDevice> open_device(const std::string& name);

/// Formats of Direct3D that are not there, about which libvkd3d complains on standard error.
[[nodiscard]] bool lacks_format(DXGI_FORMAT format);

/// Whether samplers have borders and mirror once, which libvkd3d 1.2 leaves out.
[[nodiscard]] bool has_all_address_modes();

}  // namespace yl::d3d12
