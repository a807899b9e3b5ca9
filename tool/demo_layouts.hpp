// The part of ylat demo that shows an array of layers and a colour lookup volume.
#pragma once

#include "demo_dawn.hpp"

namespace ylat {

/// A colour lookup table, as a file of text: evening.cube.
[[nodiscard]] yl::Status write_evening(const std::string& folder);

/// Both are uploaded and read back; the picture shows the layers, and a floor before and after its
/// colours were looked up.
[[nodiscard]] yl::Status show_layouts(const std::string& folder, Driver& gpu,
                                      const DemoReport& report);

}  // namespace ylat
