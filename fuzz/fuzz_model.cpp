// Models: any bytes give an error or a model whose indices are sound, and a scene that is sound as
// well; a baked model can be read again. Nothing outside is read.
//     fuzz_model -dict=fuzz/model.dict FOLDER
#include <unistd.h>

#include <filesystem>
#include <string>
#include <yl/model_bake.hpp>

#include "input.hpp"

namespace {

using fuzz::check;

void check_model(const yl::model::Model& model) {
    check(model.images.size() == model.contents.size());
    for (const auto& material : model.materials)
        for (const auto& texture : material.textures)
            check(!texture.image || *texture.image < model.images.size());
}

void check_scene(const yl::ModelScene& scene) {
    for (const yl::Primitive& part : scene.parts) {
        check(part.surface < scene.surfaces.size());
        for (const std::uint32_t index : part.indices)
            check(index < part.vertices.size());
    }
    for (const yl::Material& surface : scene.surfaces)
        if (surface.base_color_texture)
            check(surface.base_color_texture->texture < scene.textures.size());
}

#ifdef YL_FUZZ_BAKING
void check_baking(const yl::model::Model& model, const yl::model::ModelReadOptions& options) {
    static const std::filesystem::path file =
        std::filesystem::temp_directory_path() / (std::to_string(getpid()) + ".glb");
    const auto report = bake_model(model, file, {.bake = yl::model::BakeByRole()});
    if (report)
        check(yl::model::read_model(file, options).has_value());
}
#endif

}  // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const auto bytes = std::as_bytes(std::span(data, size));
    yl::model::ModelReadOptions options;
    options.limits = {.max_side = 64, .max_bytes = 1 << 16};
    const auto model = yl::model::read_model(bytes, "/nowhere", options);
    if (!model)
        return 0;
    check_model(*model);
    check(bindings_of(*model).materials.size() == model->materials.size());
    yl::Findings findings;
    const auto scene = scene_of(*model, findings);
    if (scene)
        check_scene(*scene);
#ifdef YL_FUZZ_BAKING
    options.limits.max_bytes *= 16;
    check_baking(*model, options);
#endif
    return 0;
}
