// The part of ylat demo that compresses.
#pragma once

#include "demo_dawn.hpp"

namespace ylat {

/// Pictures of the folder in the block format of their role: stored, uploaded, read back, measured.
[[nodiscard]] yl::Status show_blocks(const std::string& folder, Driver& gpu,
                                     const DemoReport& report);

}  // namespace ylat
