// A real driver, with what it needs to live.
#pragma once

#include <algorithm>
#include <yl/gl.hpp>
#include <yl/gl_headless.hpp>

namespace ylat {

struct Driver {
    yl::gl::HeadlessContext context;
    yl::gl::Device device;

    /// OpenGL without a window.
    [[nodiscard]] static yl::Result<Driver> open() {
        auto context = yl::gl::HeadlessContext::create();
        if (!context)
            return tl::unexpected(context.error());
        auto device = yl::gl::Device::open(context->loader());
        if (!device)
            return tl::unexpected(device.error());
        return Driver{std::move(*context), std::move(*device)};
    }
};

/// Whether the driver gives back every byte of what it was given.
[[nodiscard]] inline yl::Result<bool> returns_identical(const Driver& driver,
                                                        const yl::Texture& texture) {
    const auto uploaded = driver.device.upload(texture);
    if (!uploaded)
        return tl::unexpected(uploaded.error());
    const auto back = uploaded->read_back();
    if (!back)
        return tl::unexpected(back.error());
    for (std::uint32_t level = 0; level < texture.shape().levels; ++level)
        if (!std::ranges::equal(texture.level(level), back->level(level)))
            return false;
    return true;
}

}  // namespace ylat
