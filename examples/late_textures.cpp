// Textures that come late: three frames of a program that starts drawing at once. Placeholders
// first, then what there is, one file missing; nothing waits and nothing stops:
//     late_textures late.png slate.png missing.png lattice.png
#include <vector>

#include "stage.hpp"

int main(int argc, char** argv) {
    if (argc < 3)
        return std::fprintf(stderr, "usage: late_textures OUT.png PICTURE...\n"), 2;
    Stage stage(900, 640, {.streaming = true});
    yl::TextureKeeper keeper(stage.device());
    std::vector<yl::TextureTicket> tickets;
    for (int i = 2; i < argc; ++i)
        tickets.push_back(keeper.request({.file = argv[i]}));

    const GLuint program = Stage::use_program(Stage::rectangle, R"(#version 330 core
        uniform sampler2D picture;
        in vec2 uv;
        out vec4 color;
        void main() { color = texture(picture, uv); })");
    const auto draw_frame = [&](float top, float bottom) {
        const auto count = static_cast<float>(tickets.size());
        for (std::size_t i = 0; i < tickets.size(); ++i) {
            const auto place = static_cast<float>(i);
            if (const auto* texture = keeper.texture_as<yl::gl::GpuTexture>(tickets[i]))
                texture->bind(0);
            Stage::draw_rectangle(program, (place + 0.04F) / count, top, (place + 0.96F) / count,
                                  bottom);
        }
    };
    draw_frame(0.03F, 0.48F);  // the first frame: nothing is there yet
    while (!keeper.pump().is_settled) {
        // a program would draw a frame here
    }
    draw_frame(0.52F, 0.97F);
    for (const yl::TextureTicket ticket : tickets)
        if (const auto error = keeper.status(ticket).error)
            std::printf("%s\n", error->sentence().c_str());
    stage.save(argv[1]);
    const yl::KeeperTotals totals = keeper.totals();
    std::printf("%zu of %zu textures are there, %zu failed\n", totals.ready, totals.textures,
                totals.failed);
}
