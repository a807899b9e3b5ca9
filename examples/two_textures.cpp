// Two textures on two units, blended by a factor that grows from left to right, and by a mask:
//     two_textures slate.png lattice.png moss.png blend.png
#include "stage.hpp"

int main(int argc, char** argv) {
    if (argc != 5)
        return std::fprintf(stderr, "usage: two_textures BELOW ABOVE MASK OUT.png\n"), 2;
    Stage stage(840, 300);
    const auto upload = [&](const char* path, yl::Role role) {
        return or_exit(stage.device().upload(or_exit(yl::bake_file(path, {.role = role})).texture));
    };
    const auto below = upload(argv[1], yl::Role::color);
    const auto above = upload(argv[2], yl::Role::color);
    const auto mask = upload(argv[3], yl::Role::mask);  // numbers, not colours: never decoded

    const GLuint program = Stage::use_program(Stage::rectangle, R"(#version 330 core
        uniform sampler2D below, above, mask;
        uniform int by_mask;
        in vec2 uv;
        out vec4 color;
        void main() {
            vec4 over = texture(above, uv);
            float share = by_mask == 1 ? texture(mask, uv).r : uv.x;
            color = vec4(mix(texture(below, uv).rgb, over.rgb, share * over.a), 1.0);
        })");
    const char* names[] = {"below", "above", "mask"};
    const yl::gl::GpuTexture* textures[] = {&below, &above, &mask};
    for (unsigned unit = 0; unit < 3; ++unit) {
        textures[unit]->bind(unit);
        glUniform1i(glGetUniformLocation(program, names[unit]), static_cast<GLint>(unit));
    }
    Stage::draw_rectangle(program, 0.02F, 0.05F, 0.49F, 0.95F);
    glUniform1i(glGetUniformLocation(program, "by_mask"), 1);
    Stage::draw_rectangle(program, 0.51F, 0.05F, 0.98F, 0.95F);
    stage.save(argv[4]);
    std::printf("blended by a factor and by a mask, %zu sampler for three textures\n",
                stage.device().sampler_count());
}
