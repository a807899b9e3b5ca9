#include <cstdio>
#include <yl/gl.hpp>
#include <yl/yl.hpp>

#ifdef HAS_MODELS
#include <fstream>

int read_models(const char* obj);
#endif

int main() {
    auto image = yl::Image::create(yl::Format::rgb8_srgb, 3, 3);
    if (!image)
        return 1;
    for (std::uint32_t y = 0; y < 3; ++y)
        for (std::byte& byte : image->view().row(y))
            byte = std::byte{200};
    yl::Picture picture;
    picture.image = std::move(*image);
    const auto baked = yl::bake(picture);
    if (!baked || baked->texture.shape().levels != 2)
        return 2;
    if (baked->texture.image(1).row(0)[0] != std::byte{200})
        return 3;
    const auto context = yl::gl::HeadlessContext::create();
    if (!context)
        return 4;
    const auto device = yl::gl::Device::open(context->loader());
    if (!device || !device->upload(baked->texture))
        return 5;
#ifdef HAS_MODELS
    std::ofstream("triangle.obj") << "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n";
    if (const int trouble = read_models("triangle.obj"))
        return trouble;
#endif
    std::printf("greenhouse: %s\n", device->profile().name.c_str());
    return 0;
}
