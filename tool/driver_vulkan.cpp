// Vulkan without a window.
#include <yl/vulkan.hpp>
#include <yl/vulkan_scene.hpp>

#include "headless_driver.hpp"

namespace ylat {

yl::Result<std::unique_ptr<Driver>> open_vulkan_driver(const std::string& device) {
    return open_headless<yl::vulkan::HeadlessDevice, yl::vulkan::Device>(device);
}

}  // namespace ylat
