#include "driver.hpp"

#include <algorithm>

namespace ylat {

yl::Result<std::unique_ptr<Driver>> open_driver(const std::string& api, const std::string& device) {
    if (api == "vulkan")
        return open_vulkan_driver(device);
    if (!device.empty())
        return yl::fail_at({yl::ErrorKind::usage, "devices are chosen by name with --api vulkan"},
                           "--device");
    return open_gl_driver(api == "gles");
}

yl::Result<bool> returns_identical(Driver& driver, const yl::Texture& texture) {
    const auto uploaded = yl::upload_texture(driver.device(), texture);
    if (!uploaded)
        return tl::unexpected(uploaded.error());
    const auto back = uploaded->texture->read_back();
    if (!back)
        return tl::unexpected(back.error());
    yl::Texture converted;
    if (uploaded->plan.converts()) {
        auto result = yl::converted_for(uploaded->plan, texture);
        if (!result)
            return tl::unexpected(result.error());
        converted = std::move(*result);
    }
    const yl::Texture& sent = uploaded->plan.converts() ? converted : texture;
    for (std::uint32_t level = 0; level < sent.shape().levels; ++level)
        if (!std::ranges::equal(sent.level(level), back->level(level)))
            return false;
    return true;
}

}  // namespace ylat
