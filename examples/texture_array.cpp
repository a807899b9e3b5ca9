// The layers of one array texture from several files. Layers of an array have one size: pictures
// that differ are resized to the first one's, or refused with --strict:
//     texture_array [--strict] layers.png slate.png label.png moss.png
#include <cstring>
#include <vector>

#include "stage.hpp"

namespace {

/// Every layer in one format and size, then one chain of levels for all.
yl::Texture make_array(const std::vector<yl::Picture>& pictures, bool strict) {
    const auto size = [](const yl::Picture& picture) {
        return std::pair(picture.image.width(), picture.image.height());
    };
    const auto [width, height] = size(pictures[0]);
    yl::Texture array =
        or_exit(yl::Texture::create({.format = yl::Format::rgba8_srgb,
                                     .width = width,
                                     .height = height,
                                     .levels = yl::full_level_count(width, height),
                                     .layers = static_cast<std::uint32_t>(pictures.size()),
                                     .is_array = true}));
    for (std::uint32_t layer = 0; layer < pictures.size(); ++layer) {
        const yl::Picture& picture = pictures[layer];
        if (size(picture) != size(pictures[0]) && strict) {
            std::fprintf(stderr, "layer %u has %u x %u texels, the first one %u x %u\n", layer,
                         picture.image.width(), picture.image.height(), width, height);
            std::exit(1);
        }
        const yl::Image color =
            or_exit(yl::convert(picture.image.view(), yl::Format::rgba8_srgb,
                                {.source_transfer = picture.transfer, .swizzle = picture.swizzle}));
        const yl::Image fitting = or_exit(yl::resize(color.view(), width, height));
        or_exit(yl::convert(fitting.view(), array.image(0, layer),
                            {.source_transfer = yl::Transfer::linear}));
    }
    or_exit(yl::build_mips(array));
    return array;
}

}  // namespace

int main(int argc, char** argv) {
    const bool strict = argc > 1 && std::strcmp(argv[1], "--strict") == 0;
    const int first = strict ? 2 : 1;
    if (argc < first + 2)
        return std::fprintf(stderr, "usage: texture_array [--strict] OUT.png PICTURE...\n"), 2;
    std::vector<yl::Picture> pictures;
    for (int i = first + 1; i < argc; ++i)
        pictures.push_back(or_exit(yl::read_picture(argv[i])));
    const yl::Texture array = make_array(pictures, strict);
    Stage stage(900, 260);
    const auto texture = or_exit(stage.device().upload(array));
    texture.bind(0);
    const GLuint program = Stage::use_program(Stage::rectangle, R"(#version 330 core
        uniform sampler2DArray layers;
        uniform float layer;
        in vec2 uv;
        out vec4 color;
        void main() { color = texture(layers, vec3(uv, layer)); })");
    const auto count = static_cast<float>(pictures.size());
    for (std::size_t i = 0; i < pictures.size(); ++i) {
        const auto layer = static_cast<float>(i);
        glUniform1f(glGetUniformLocation(program, "layer"), layer);
        Stage::draw_rectangle(program, (layer + 0.04F) / count, 0.06F, (layer + 0.96F) / count,
                              0.94F);
    }
    stage.save(argv[first]);
    std::printf("an array of %zu layers of %u x %u\n", pictures.size(), texture.shape().width,
                texture.shape().height);
}
