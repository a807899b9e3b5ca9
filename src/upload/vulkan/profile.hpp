// What the program's device can do.
#pragma once

#include <yl/vulkan.hpp>
#include "upload/vulkan/functions.hpp"

namespace yl::vulkan {

/// Fails with `ErrorKind::device` below Vulkan 1.1.
[[nodiscard]] Result<DeviceProfile> read_profile(const Functions& vk, const DeviceHandles& handles);

/// Whether copies on the transfer queue may begin and end anywhere.
[[nodiscard]] bool copies_anywhere(const Functions& vk, const DeviceHandles& handles);

}  // namespace yl::vulkan
