// From a PNG file to a texture that is bound, with its mip chain and its sampler:
//     first_texture slate.png
#include <cstdio>
#include <yl/gl.hpp>
#include <yl/gl.hpp>  // stands in for the window that a program has
#include <yl/yl.hpp>

int main(int argc, char** argv) {
    const auto window = yl::gl::HeadlessContext::create();
    if (argc != 2 || !window)
        return std::fprintf(stderr, "usage: first_texture PICTURE, on a machine with OpenGL\n"), 2;

    const auto device = yl::gl::Device::open(window->loader());
    const auto baked = yl::bake_file(argv[1], {.role = yl::Role::color});
    if (!device || !baked) {
        const yl::Error& error = baked ? device.error() : baked.error();
        return std::fprintf(stderr, "first_texture: %s\n", error.sentence().c_str()), 1;
    }
    const auto texture =
        device->upload(baked->texture, {.sampler = yl::Sampler{.max_anisotropy = 8}});
    if (!texture)
        return std::fprintf(stderr, "first_texture: %s\n", texture.error().sentence().c_str()), 1;
    texture->bind(0);

    const yl::TextureShape& shape = texture->plan().shape;
    std::printf("bound to unit 0: %u x %u, %u levels, on %s\n", shape.width, shape.height,
                shape.levels, device->profile().name.c_str());
}
