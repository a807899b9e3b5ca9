// In place of driver_vulkan.cpp where the project is built without Vulkan.
#include "driver.hpp"

namespace ylat {

yl::Result<std::unique_ptr<Driver>> open_vulkan_driver(const std::string&) {
    return yl::fail_at({yl::ErrorKind::device, "this program was built without Vulkan"}, "--api");
}

}  // namespace ylat
