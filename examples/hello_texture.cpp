// One textured panel:
//     hello_texture slate.png hello.png
#include "stage.hpp"

int main(int argc, char** argv) {
    if (argc != 3)
        return std::fprintf(stderr, "usage: hello_texture PICTURE OUT.png\n"), 2;
    Stage stage(640, 400);

    const yl::Baked baked = or_exit(yl::bake_file(argv[1], {.role = yl::Role::color}));
    const yl::gl::GpuTexture texture = or_exit(stage.device().upload(
        baked.texture, {.sampler = yl::Sampler{.max_anisotropy = 8}, .role = yl::Role::color}));
    for (const yl::Finding& finding : texture.findings())
        std::fprintf(stderr, "%s; %s\n", finding.problem.c_str(), finding.remedy.c_str());

    const GLuint program = Stage::use_program(Stage::rectangle, R"(#version 330 core
        uniform sampler2D picture;
        in vec2 uv;
        out vec4 color;
        void main() { color = texture(picture, uv * vec2(1.6, 1.0)); })");
    texture.bind(0);
    Stage::draw_rectangle(program, 0.05F, 0.08F, 0.95F, 0.92F);
    stage.save(argv[2]);
    std::printf("one panel of %u x %u texels\n", texture.shape().width, texture.shape().height);
}
