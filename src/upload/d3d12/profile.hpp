// What a device can do with textures.
#pragma once

#include <yl/d3d12.hpp>

namespace yl::d3d12 {

/// The typical device, with the formats that this one has.
[[nodiscard]] Result<DeviceProfile> read_profile(const DeviceHandles& handles);

}  // namespace yl::d3d12
