// The part of ylat demo that shows a sky.
#pragma once

#include <functional>
#include <string>

#include "driver.hpp"

namespace ylat {

/// What is written and what is checked goes to these.
struct DemoReport {
    std::function<void(const std::string&)> say;
    std::function<void(bool)> check;
};

/// Six scrambled faces to a cube, uploaded and read back; the sky and balls that mirror it, drawn
/// by the CPU and by the driver.
[[nodiscard]] yl::Status show_dawn(const std::string& folder, Driver& gpu,
                                   const DemoReport& report);

}  // namespace ylat
