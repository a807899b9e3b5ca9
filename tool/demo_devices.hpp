// The demo's textures on every kind of device.
#pragma once

#include <map>

#include "demo_dawn.hpp"

namespace ylat {

/// Uploads them by every API that is here, reads back, draws a floor, and plans for devices that
/// are not here.
[[nodiscard]] yl::Status show_devices(const std::map<std::string, yl::Texture>& textures,
                                      const DemoReport& report);

}  // namespace ylat
