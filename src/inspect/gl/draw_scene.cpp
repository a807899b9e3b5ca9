// The scenes of yl/scene.hpp by an OpenGL driver: one triangle over the picture, whose fragments
// find their texture coordinates as the CPU does.
#include <yl/gl_scene.hpp>
#include "inspect/gl/picture_target.hpp"

namespace yl::gl {
namespace {

// Row 0 of the framebuffer is the picture's top row, so that no flip is needed on the way out.
constexpr const char* fragment_source = R"(
uniform sampler2D picture;
uniform vec3 s_row, t_row, q_row;
uniform float least_q;
uniform int is_bounded;
uniform vec2 bounds;
uniform vec3 backdrop_top, backdrop_bottom;
uniform float height;
uniform int alpha_mode;  // 0 straight, 1 premultiplied, 2 cut-out
uniform float threshold;
out vec4 color;

void main() {
    vec2 p = gl_FragCoord.xy;
    float q = q_row.x * p.x + q_row.y * p.y + q_row.z;
    float divisor = max(q, least_q);
    vec2 uv = vec2((s_row.x * p.x + s_row.y * p.y + s_row.z) / divisor, (t_row.x * p.x + t_row.y * p.y + t_row.z) / divisor);
    vec4 surface = texture(picture, uv);
    float share = p.y / height;
    vec3 backdrop = backdrop_top * (1.0 - share) + backdrop_bottom * share;
    bool seen = q >= least_q && (is_bounded == 0 || (uv.x >= 0.0 && uv.x <= bounds.x && uv.y >= 0.0 && uv.y <= bounds.y));
    vec3 result = backdrop;
    if (seen && alpha_mode == 0) result = backdrop * (1.0 - surface.a) + surface.rgb * surface.a;
    if (seen && alpha_mode == 1) result = backdrop * (1.0 - surface.a) + surface.rgb;
    if (seen && alpha_mode == 2 && surface.a >= threshold) result = surface.rgb;
    color = vec4(result, 1.0);
}
)";

void set_uniforms(const Functions& gl, const Program& program, const Scene& scene,
                  AlphaMode alpha) {
    const float* m = scene.texture_from_pixel.data();
    gl.Uniform1i(program.uniform("picture"), 0);
    gl.Uniform3fv(program.uniform("s_row"), 1, m);
    gl.Uniform3fv(program.uniform("t_row"), 1, m + 3);
    gl.Uniform3fv(program.uniform("q_row"), 1, m + 6);
    gl.Uniform1f(program.uniform("least_q"), scene.least_q);
    gl.Uniform1i(program.uniform("is_bounded"), scene.is_bounded ? 1 : 0);
    gl.Uniform2f(program.uniform("bounds"), scene.u_end, scene.v_end);
    gl.Uniform3fv(program.uniform("backdrop_top"), 1, scene.backdrop_top.data());
    gl.Uniform3fv(program.uniform("backdrop_bottom"), 1, scene.backdrop_bottom.data());
    gl.Uniform1f(program.uniform("height"), static_cast<float>(scene.height));
    gl.Uniform1i(program.uniform("alpha_mode"), scene.cutout_threshold              ? 2
                                                : alpha == AlphaMode::premultiplied ? 1
                                                                                    : 0);
    gl.Uniform1f(program.uniform("threshold"), scene.cutout_threshold.value_or(0.0F));
}

}  // namespace

Result<Image> draw_scene(const Device& device, const Scene& scene, const GpuTexture& texture,
                         AlphaMode alpha) {
    const Functions& gl = *device.functions();
    return draw_picture(gl, fragment_source, scene.width, scene.height,
                        [&](const Program& program) {
                            set_uniforms(gl, program, scene, alpha);
                            texture.bind(0);
                        });
}

}  // namespace yl::gl
