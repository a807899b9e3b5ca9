// Direct3D 12 without a window.
#include <yl/d3d12.hpp>
#include <yl/d3d12_scene.hpp>

#include "headless_driver.hpp"

namespace ylat {

yl::Result<std::unique_ptr<Driver>> open_d3d12_driver(const std::string& device) {
    return open_headless<yl::d3d12::HeadlessDevice, yl::d3d12::Device>(device);
}

}  // namespace ylat
