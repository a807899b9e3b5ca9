// Models: any bytes give an error or a model whose indices are sound, and a scene that is sound as
// well. Nothing outside is read.
#include <cstdlib>
#include <yl/mesh_bake.hpp>

namespace {

void check(bool holds) {
    if (!holds)
        std::abort();
}

void check_model(const yl::mesh::Model& model) {
    check(model.images.size() == model.contents.size());
    for (const auto& material : model.materials)
        for (const auto& texture : material.textures)
            check(!texture.image || *texture.image < model.images.size());
}

void check_scene(const yl::MeshScene& scene) {
    for (const yl::MeshPart& part : scene.parts) {
        check(part.surface < scene.surfaces.size());
        for (const std::uint32_t index : part.indices)
            check(index < part.vertices.size());
    }
    for (const yl::MeshSurface& surface : scene.surfaces)
        if (surface.base_color_texture)
            check(surface.base_color_texture->texture < scene.textures.size());
}

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto bytes = std::as_bytes(std::span(data, size));
    yl::mesh::ModelReadOptions options;
    options.limits = {.greatest_side = 64, .greatest_bytes = 1 << 16};
    const auto model = yl::mesh::read_model(bytes, "/nowhere", options);
    if (!model)
        return 0;
    check_model(*model);
    check(bindings_of(*model).materials.size() == model->materials.size());
    yl::Findings findings;
    const auto scene = scene_of(*model, findings);
    if (scene)
        check_scene(*scene);
    return 0;
}
