// The part of ylat demo that takes a model.
#pragma once

#include "demo_dawn.hpp"

namespace ylat {

/// The planter, with the folder's pictures: read, baked, read back, and drawn by CPU and driver.
[[nodiscard]] yl::Status show_planter(const std::string& folder, Driver& gpu,
                                      const DemoReport& report);

}  // namespace ylat
