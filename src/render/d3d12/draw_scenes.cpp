// The scenes of yl/scene.hpp by a Direct3D 12 device.
#include <yl/d3d12_scene.hpp>
#include "base/out_of_memory.hpp"
#include "render/d3d12/picture.hpp"
#include "render/d3d12/scene_shaders.hpp"
#include "render/scene_uniforms.hpp"

namespace yl::d3d12 {

Result<Image> draw_scene(Device& device, const Scene& scene, const GpuTexture& texture,
                         AlphaMode alpha) try {
    return draw_picture(*device.context(), scene_shader(), scene.width, scene.height, texture,
                        numbers_of(scene, alpha));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<Image> draw_cube_scene(Device& device, const CubeScene& scene, const GpuTexture& cube) try {
    if (cube.shape().faces != 6 || cube.shape().is_array)
        return fail(ErrorKind::usage, "this is not a cube map");
    return draw_picture(*device.context(), cube_scene_shader(), scene.width, scene.height, cube,
                        numbers_of(scene));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::d3d12
