#include <yl/status_macros.hpp>

#include "driver.hpp"

#include <algorithm>

namespace ylat {

yl::Result<std::unique_ptr<Driver>> open_driver(const std::string& api, const std::string& device) {
    if (api == "vulkan")
        return open_vulkan_driver(device);
    if (api == "d3d12")
        return open_d3d12_driver(device);
    if (!device.empty())
        return yl::fail_at(
            {yl::ErrorKind::usage, "devices are chosen by name with --api vulkan and d3d12"},
            "--device");
    return open_gl_driver(api == "gles");
}

yl::Result<bool> returns_identical(Driver& driver, const yl::Texture& texture) {
    YL_TRY(const auto uploaded, yl::upload_texture(driver.device(), texture));
    YL_TRY(const auto back, uploaded.texture->read_back());
    yl::Texture converted;
    if (uploaded.plan.converts()) {
        YL_TRY(auto result, yl::converted_for(uploaded.plan, texture));
        converted = std::move(result);
    }
    const yl::Texture& sent = uploaded.plan.converts() ? converted : texture;
    for (std::uint32_t level = 0; level < sent.shape().levels; ++level)
        if (!std::ranges::equal(sent.level(level), back.level(level)))
            return false;
    return true;
}

}  // namespace ylat
