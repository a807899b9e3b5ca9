// What the current context can do.
#pragma once

#include "upload/gl/functions.hpp"

namespace yl::gl {

/// Reads limits and formats, and finds out which ways of the functions may be used. Fails with
/// `ErrorKind::device` below OpenGL 3.3 and OpenGL ES 3.0.
[[nodiscard]] Result<DeviceProfile> read_profile(Functions& gl, const DeviceOptions& options);

}  // namespace yl::gl
