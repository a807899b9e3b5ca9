// A real driver, with what it needs to live.
#pragma once

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

}  // namespace ylat
