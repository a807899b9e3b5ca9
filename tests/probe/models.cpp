// Models: what they hold, what is to be bound, baked, drawn.
#include <chrono>
#include <yl/model.hpp>
#include <yl/model_bake.hpp>
#include <yl/model_scene.hpp>

#include "hash.hpp"

namespace probe {
namespace {

/// Sentences name folders.
void add_codes(Hash& hash, const yl::Findings& findings) {
    for (const yl::Finding& finding : findings)
        hash.add_all(std::string_view(finding.code), yl::name(finding.level));
}

void add(Hash& hash, const yl::model::Model& model) {
    for (const yl::model::ModelImage& image : model.images) {
        hash.add_all(image.name, image.source, image.uri, image.bytes, image.file_format,
                     image.width, image.height, image.same_as, image.error.has_value());
        if (image.look)
            hash.add_all(image.look->channels.is_gray, image.look->channels.is_opaque,
                         image.look->content.directions, image.look->content.mean);
    }
    for (const yl::model::ModelMaterial& material : model.materials) {
        const yl::Material& s = material.surface;
        hash.add_all(s.name, s.base_color, s.metallic, s.roughness, s.emissive, s.normal_scale,
                     s.occlusion_strength, s.alpha, s.cutoff, s.is_two_sided, s.is_unlit);
        for (const yl::model::BoundTexture& bound : material.textures)
            hash.add_all(bound.slot, bound.texture, bound.image, bound.ordinary_image,
                         yl::sampler_text(bound.sampler), bound.coordinate_set, bound.factor,
                         yl::model::matrix_of(bound.transform));
    }
    add_codes(hash, model.findings);
}

void print_model(const std::string& name, const yl::model::Model& model) {
    Hash whole;
    add(whole, model);
    print("model " + name, whole.value());
    const yl::model::TextureBindings bindings = yl::model::bindings_of(model);
    Hash bound;
    for (const yl::model::NeededTexture& needed : bindings.textures)
        bound.add_all(needed.image, needed.role, needed.cutoff, needed.alpha, needed.normals,
                      needed.label);
    for (const auto& material : bindings.materials)
        for (const yl::model::TextureBinding& binding : material)
            bound.add_all(binding.slot, binding.texture, yl::sampler_text(binding.sampler),
                          binding.coordinate_set, binding.factor);
    for (const yl::DeviceProfile& profile : yl::built_in_profiles())
        bound.add(yl::model::check_bindings(model, bindings, profile));
    print("bindings of " + name, bound.value(), bindings.samplers);
    Hash made;
    for (const yl::model::MadeTexture& texture : yl::model::make_textures(model, bindings)) {
        if (texture.texture)
            made.add(*texture.texture);
        made.add_all(texture.findings, texture.picture_width, texture.picture_height);
    }
    print("textures of " + name, made.value());
    yl::Findings findings;
    const auto scene = yl::model::scene_of(model, findings);
    if (!is_there("scene of " + name, scene))
        return;
    print("scene of " + name, scene->parts.size(), scene->surfaces.size(), scene->textures.size(),
          findings);
    for (const yl::ModelShow show : {yl::ModelShow::lit, yl::ModelShow::uv, yl::ModelShow::normal,
                                     yl::ModelShow::slot, yl::ModelShow::level})
        if (const auto picture = yl::draw_model(*scene, {.width = 96, .height = 64, .show = show}))
            print(fmt::format("drawing of {}, {}", name, yl::name(show)), *picture);
}

}  // namespace

void models(const Places& places) {
    std::vector<std::filesystem::path> list = files_in(places.seeds / "model");
    list.push_back(places.demo / "planter.glb");
    for (const auto& file : list) {
        const std::string name = file.filename().string();
        print_damaged("model " + name, file, [](Hash& hash, std::span<const std::byte> bytes) {
            const auto model = yl::model::read_model(bytes, "/nowhere");
            if (model)
                add(hash, *model);
            else
                hash.add_all(model.error().kind, model.error().message, model.error().offset);
        });
        const auto model = yl::model::read_model(file);
        if (!is_there("model " + name, model))
            continue;
        print_model(name, *model);
        const auto output =
            std::filesystem::temp_directory_path() /
            fmt::format("yl-probe-{}.glb",
                        std::chrono::steady_clock::now().time_since_epoch().count());
        const auto report =
            yl::model::bake_model(*model, output, {.write = {}, .keep_pictures = false});
        if (!is_there("baked " + name, report))
            continue;
        const auto again = yl::model::read_model(output);
        if (!is_there("baked " + name, again))
            continue;
        Hash hash;
        add(hash, *again);
        for (const yl::model::BakedTexture& texture : report->textures)
            hash.add_all(texture.format, texture.shape.width, texture.shape.levels,
                         texture.texture_file_bytes, texture.device_bytes);
        add_codes(hash, report->findings);
        print("baked " + name, hash.value());
        std::filesystem::remove(output);
    }
}

}  // namespace probe
