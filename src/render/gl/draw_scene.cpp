// The scenes of yl/scene.hpp by an OpenGL driver.
#include <yl/gl_scene.hpp>
#include "base/out_of_memory.hpp"
#include "render/gl/picture_target.hpp"
#include "render/scene_uniforms.hpp"

namespace yl::gl {
namespace {

constexpr const char* fragment_source =
#include "scene.frag.inc"
    ;

}  // namespace

Result<Image> draw_scene(const Device& device, const Scene& scene, const GpuTexture& texture,
                         AlphaMode alpha) try {
    texture.bind(0);
    return draw_picture(device.functions(), fragment_source, scene.width, scene.height, "picture",
                        numbers_of(scene, alpha));
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::gl
