// The scenes of yl/cube_scene.hpp by an OpenGL driver.
#include <yl/gl_scene.hpp>
#include "inspect/gl/picture_target.hpp"

namespace yl::gl {
namespace {

// Row 0 of the framebuffer is the picture's top row, so that no flip is needed on the way out.
constexpr const char* fragment_source = R"(
uniform samplerCube sky;
uniform vec3 x_row, y_row, z_row;
uniform int has_ball, ball_is_matt;
uniform vec3 ball_middle;
uniform float sky_level, ball_level;  // below 0: by the size of a pixel
uniform vec3 harmonics[9];            // times the cosine's own
uniform float exposure;
out vec4 color;

vec3 matt(vec3 n) {
    return harmonics[0] * 0.282094791773878 + (harmonics[1] * n.y + harmonics[2] * n.z + harmonics[3] * n.x) * 0.488602511902920
         + (harmonics[4] * n.x * n.y + harmonics[5] * n.y * n.z + harmonics[7] * n.x * n.z) * 1.092548430592079
         + harmonics[6] * 0.315391565252520 * (3.0 * n.z * n.z - 1.0) + harmonics[8] * 0.546274215296040 * (n.x * n.x - n.y * n.y);
}

void main() {
    vec2 p = gl_FragCoord.xy;
    vec3 r = vec3(x_row.x * p.x + x_row.y * p.y + x_row.z, y_row.x * p.x + y_row.y * p.y + y_row.z, z_row.x * p.x + z_row.y * p.y + z_row.z);
    float a = dot(r, r), b = dot(r, ball_middle);
    float root = b * b - a * (dot(ball_middle, ball_middle) - 1.0);
    bool is_ball = has_ball == 1 && root > 0.0 && b > 0.0;
    vec3 normal = r * ((b - sqrt(max(root, 0.0))) / a) - ball_middle;
    vec3 direction = is_ball ? r - 2.0 * dot(r, normal) * normal : r;
    vec3 by_size = texture(sky, direction).rgb;
    float level = is_ball ? ball_level : sky_level;
    vec3 light = level < 0.0 ? by_size : textureLod(sky, direction, level).rgb;
    if (is_ball && ball_is_matt == 1) light = matt(normalize(normal));
    color = vec4(light * exposure, 1.0);
}
)";

void set_uniforms(const Functions& gl, const Program& program, const CubeScene& scene) {
    const float* m = scene.direction_from_pixel.data();
    gl.Uniform1i(program.uniform("sky"), 0);
    gl.Uniform3fv(program.uniform("x_row"), 1, m);
    gl.Uniform3fv(program.uniform("y_row"), 1, m + 3);
    gl.Uniform3fv(program.uniform("z_row"), 1, m + 6);
    gl.Uniform1i(program.uniform("has_ball"), scene.ball_middle ? 1 : 0);
    const auto middle = scene.ball_middle.value_or(std::array<float, 3>{});
    gl.Uniform3fv(program.uniform("ball_middle"), 1, middle.data());
    gl.Uniform1f(program.uniform("sky_level"), scene.sky_level.value_or(-1));
    gl.Uniform1f(program.uniform("ball_level"), scene.ball_level.value_or(-1));
    gl.Uniform1f(program.uniform("exposure"), scene.exposure);
    gl.Uniform1i(program.uniform("ball_is_matt"), scene.matt_ball ? 1 : 0);
    const Harmonics harmonics = scene.matt_ball.value_or(Harmonics{});
    std::array<float, 27> numbers{};
    for (std::size_t i = 0; i < 9; ++i)
        for (std::size_t c = 0; c < 3; ++c)
            numbers[3 * i + c] = static_cast<float>(cosine_harmonics[i] * harmonics.radiance[i][c]);
    gl.Uniform3fv(program.uniform("harmonics"), 9, numbers.data());
}

}  // namespace

Result<Image> draw_cube_scene(const Device& device, const CubeScene& scene,
                              const GpuTexture& cube) {
    const Functions& gl = *device.functions();
    if (cube.target() != GL_TEXTURE_CUBE_MAP)
        return fail(ErrorKind::usage, "this is no cube map");
    if (!gl.is_embedded)  // in ES cubes have no seams
        gl.Enable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    auto picture =
        draw_picture(gl, fragment_source, scene.width, scene.height, [&](const Program& program) {
            set_uniforms(gl, program, scene);
            cube.bind(0);
        });
    if (!gl.is_embedded)
        gl.Disable(GL_TEXTURE_CUBE_MAP_SEAMLESS);
    return picture;
}

}  // namespace yl::gl
