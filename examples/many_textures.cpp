// Two hundred textures on OpenGL, whose shaders see no more at once than the device has units: they
// are bound in groups of that many, a draw call for each group:
//     many_textures many.png
#include "stage.hpp"
#include "swatches.hpp"

int main(int argc, char** argv) {
    if (argc != 2)
        return std::fprintf(stderr, "usage: many_textures OUT.png\n"), 2;
    constexpr std::size_t columns = 20, rows = 10;
    Stage stage(800, 400);
    std::vector<yl::gl::GpuTexture> textures;
    for (const yl::Texture& swatch : or_exit(make_swatches(columns * rows)))
        textures.push_back(or_exit(stage.device().upload(swatch)));

    const yl::DeviceProfile& profile = stage.device().profile();
    for (const yl::Finding& finding :
         yl::check_counts(textures.size(), stage.device().sampler_count(), profile))
        std::printf("%s; %s\n", finding.problem.c_str(), finding.remedy.c_str());
    // Sixteen units are there on every device; an array of samplers takes one each.
    const std::size_t group = std::min<std::size_t>(profile.max_textures, 16);

    // One instance for each texture of the group. OpenGL 3.3 allows constant indices only.
    const GLuint program = Stage::use_program(R"(#version 330 core
        uniform int first;
        out vec2 uv;
        flat out int unit;
        void main() {
            uv = vec2(gl_VertexID % 2, gl_VertexID / 2);
            unit = gl_InstanceID;
            int number = first + gl_InstanceID;
            vec2 corner = (vec2(number % 20, number / 20) + 0.05 + 0.9 * uv) / vec2(20.0, 10.0);
            gl_Position = vec4(2.0 * corner - 1.0, 0.0, 1.0);
        })",
                                              R"(#version 330 core
        uniform sampler2D pictures[16];
        in vec2 uv;
        flat in int unit;
        out vec4 color;
        void main() {
            vec2 dx = dFdx(uv), dy = dFdy(uv);
            #define CASE(n) case n: color = textureGrad(pictures[n], uv, dx, dy); break;
            switch (unit) {
                CASE(0) CASE(1) CASE(2) CASE(3) CASE(4) CASE(5) CASE(6) CASE(7)
                CASE(8) CASE(9) CASE(10) CASE(11) CASE(12) CASE(13) CASE(14) CASE(15)
            }
        })");
    GLint units[16];
    for (GLint i = 0; i < 16; ++i)
        units[i] = i;
    glUniform1iv(glGetUniformLocation(program, "pictures"), 16, units);
    std::size_t draws = 0;
    for (std::size_t first = 0; first < textures.size(); first += group, ++draws) {
        const std::size_t count = std::min(group, textures.size() - first);
        for (std::size_t i = 0; i < count; ++i)
            textures[first + i].bind(static_cast<std::uint32_t>(i));
        glUniform1i(glGetUniformLocation(program, "first"), static_cast<GLint>(first));
        glDrawArraysInstanced(GL_TRIANGLE_STRIP, 0, 4, static_cast<GLsizei>(count));
    }
    stage.save(argv[1]);
    std::printf("%zu textures in %zu draw calls of at most %zu units\n", textures.size(), draws,
                group);
}
