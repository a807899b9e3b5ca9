// Models: any bytes give an error or a model whose indices are sound. Nothing outside is read.
#include <cstdlib>
#include <yl/mesh.hpp>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto bytes = std::as_bytes(std::span(data, size));
    yl::mesh::ModelReadOptions options;
    options.limits = {.greatest_side = 64, .greatest_bytes = 1 << 16};
    const auto model = yl::mesh::read_model(bytes, "/nowhere", options);
    if (!model)
        return 0;
    if (model->images.size() != model->contents.size())
        std::abort();
    for (const auto& material : model->materials)
        for (const auto& texture : material.textures)
            if (texture.image && *texture.image >= model->images.size())
                std::abort();
    return 0;
}
