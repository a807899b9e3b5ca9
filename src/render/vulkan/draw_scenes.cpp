// The scenes of yl/scene.hpp and yl/scene.hpp by a Vulkan driver.
#include <yl/vulkan_scene.hpp>
#include "base/out_of_memory.hpp"
#include "cube_scene.frag.spv.inc"
#include "render/scene_uniforms.hpp"
#include "render/vulkan/picture.hpp"
#include "scene.frag.spv.inc"

namespace yl::vulkan {

Result<Image> draw_scene(Device& device, const Scene& scene, const GpuTexture& texture,
                         AlphaMode alpha) {
    return draw_picture(*device.context(), scene_frag_spv, scene.width, scene.height,
                        texture.descriptor(), numbers_of(scene, alpha));
}

Result<Image> draw_cube_scene(Device& device, const CubeScene& scene, const GpuTexture& cube) try {
    if (cube.shape().faces != 6 || cube.shape().is_array)
        return fail(ErrorKind::usage, "this is not a cube map");
    return draw_picture(*device.context(), cube_scene_frag_spv, scene.width, scene.height,
                        cube.descriptor(), numbers_of(scene));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::vulkan
