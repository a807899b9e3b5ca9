// In place of driver_d3d12.cpp where the project is built without Direct3D 12.
#include "driver.hpp"

namespace ylat {

yl::Result<std::unique_ptr<Driver>> open_d3d12_driver(const std::string&) {
    return yl::fail_at({yl::ErrorKind::device, "this program was built without Direct3D 12"},
                       "--api");
}

}  // namespace ylat
