// The headless OpenGL device that these tests need; without one they fail.
#pragma once

#include <yl/gl.hpp>

#include "support/check.hpp"

namespace support {

struct GlFixture {
    yl::gl::HeadlessContext context = must(yl::gl::HeadlessContext::create());
    yl::gl::Device device = must(yl::gl::Device::open(context.loader()));
};

}  // namespace support
