// The shaders of scenes, which do what those in render/shaders do.
#pragma once

#include <cstddef>
#include <vector>

namespace yl::d3d12 {

/// One triangle over the whole picture.
[[nodiscard]] std::vector<std::byte> triangle_shader();
/// A textured plane before a backdrop.
[[nodiscard]] std::vector<std::byte> scene_shader();
/// A sky, and a ball that mirrors it.
[[nodiscard]] std::vector<std::byte> cube_scene_shader();

}  // namespace yl::d3d12
