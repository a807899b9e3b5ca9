// The scenes of yl/scene.hpp by an OpenGL driver.
#include <yl/gl_scene.hpp>
#include "base/out_of_memory.hpp"
#include "render/gl/picture_target.hpp"
#include "render/scene_uniforms.hpp"

namespace yl::gl {
namespace {

constexpr const char* fragment_source =
#include "cube_scene.frag.inc"
    ;

}  // namespace

Result<Image> draw_cube_scene(const Device& device, const CubeScene& scene,
                              const GpuTexture& cube) try {
    const Functions& gl = device.functions();
    if (cube.target() != GL_TEXTURE_CUBE_MAP)
        return fail(ErrorKind::usage, "this is not a cube map");
    if (!gl.is_embedded)  // in ES cubes have no seams
        gl.Enable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    cube.bind(0);
    auto picture =
        draw_picture(gl, fragment_source, scene.width, scene.height, "sky", numbers_of(scene));
    if (!gl.is_embedded)
        gl.Disable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    return picture;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::gl
