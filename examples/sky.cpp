// A cube map behind a scene: the sky is drawn last, at the far plane, where nothing else is:
//     sky dawn.hdr slate.png sky.png
#include <array>
#include <cmath>

#include "stage.hpp"

namespace {

constexpr const char* block_vertex = R"(#version 330 core
        uniform float turn, aspect;
        out vec2 uv;
        out float light;
        const vec2 corners[6] = vec2[](vec2(-1, -1), vec2(1, -1), vec2(1, 1), vec2(-1, -1), vec2(1, 1), vec2(-1, 1));
        void main() {
            int side = gl_VertexID / 6;
            vec2 c = corners[gl_VertexID % 6];
            float s = side % 2 == 0 ? 1.0 : -1.0;
            vec3 p = side / 2 == 0 ? vec3(s, c.y, c.x) : side / 2 == 1 ? vec3(c.x, s, c.y) : vec3(c.x, c.y, s);
            vec3 n = side / 2 == 0 ? vec3(s, 0, 0) : side / 2 == 1 ? vec3(0, s, 0) : vec3(0, 0, s);
            mat2 about = mat2(cos(turn), sin(turn), -sin(turn), cos(turn));
            p.xz = about * p.xz;
            n.xz = about * n.xz;
            uv = 0.5 * c + 0.5;
            light = 0.25 + 0.75 * max(dot(n, normalize(vec3(-0.5, 0.6, -0.6))), 0.0);
            vec3 seen = p * 0.7 + vec3(0.3, -0.25, 3.2);
            float near = 0.1, far = 100.0;
            gl_Position = vec4(1.7 * seen.x / aspect, -1.7 * seen.y, ((far + near) * seen.z - 2.0 * far * near) / (far - near), seen.z);
        })";

constexpr const char* block_fragment = R"(#version 330 core
        uniform sampler2D stone;
        in vec2 uv;
        in float light;
        out vec4 color;
        void main() { color = vec4(texture(stone, uv).rgb * light, 1.0); })";

constexpr const char* sky_vertex = R"(#version 330 core
        uniform float aspect;
        out vec3 direction;
        void main() {
            vec2 corner = vec2(gl_VertexID == 1 ? 3.0 : -1.0, gl_VertexID == 2 ? 3.0 : -1.0);
            direction = vec3(corner.x * aspect / 1.7, -corner.y / 1.7, 1.0);
            gl_Position = vec4(corner, 1.0, 1.0);
        })";

constexpr const char* sky_fragment = R"(#version 330 core
        uniform samplerCube sky;
        in vec3 direction;
        out vec4 color;
        void main() { color = vec4(texture(sky, direction).rgb, 1.0); })";

}  // namespace

int main(int argc, char** argv) {
    if (argc != 4)
        return std::fprintf(stderr, "usage: sky PANORAMA_OR_CROSS PICTURE OUT.png\n"), 2;
    Stage stage(720, 460);
    const yl::Picture panorama = or_exit(yl::read_picture(argv[1], {.role = yl::Role::hdr}));
    const yl::Picture* one = &panorama;
    const auto sky = or_exit(stage.device().upload(
        or_exit(yl::bake_cube(std::span(&one, 1), {})).texture,
        {.sampler = yl::Sampler{.wrap = {yl::Wrap::clamp_to_edge, yl::Wrap::clamp_to_edge,
                                         yl::Wrap::clamp_to_edge}}}));
    const auto stone = or_exit(stage.device().upload(or_exit(yl::bake_file(argv[2])).texture));
    glEnable(GL_DEPTH_TEST);
    glEnable(GL_TEXTURE_CUBE_MAP_SEAMLESS);

    // A block of stone before the camera, turned, with depths from 0.1 to 100.
    const GLuint block = Stage::use_program(block_vertex, block_fragment);
    glUniform1f(glGetUniformLocation(block, "turn"), 0.6F);
    glUniform1f(glGetUniformLocation(block, "aspect"), 720.0F / 460.0F);
    stone.bind(0);
    glDrawArrays(GL_TRIANGLES, 0, 36);

    // The sky: w as depth is the far plane exactly, which passes only where nothing has been drawn.
    glDepthFunc(GL_LEQUAL);
    const GLuint behind = Stage::use_program(sky_vertex, sky_fragment);
    glUniform1f(glGetUniformLocation(behind, "aspect"), 720.0F / 460.0F);
    sky.bind(0);
    glDrawArrays(GL_TRIANGLES, 0, 3);
    stage.save(argv[3]);
    std::printf("a sky of six faces of %u x %u behind a block\n", sky.shape().width,
                sky.shape().height);
}
