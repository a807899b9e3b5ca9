#include "bound_textures.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <yl/status_macros.hpp>

#include "archives.hpp"
#include "arguments.hpp"
#include "models.hpp"

namespace ylat {

using yl::model::Slot;

bool is_model_name(const std::string& path) {
    static constexpr std::string_view endings[] = {"gltf",  "glb", "obj", "fbx", "dae", "3ds",
                                                   "blend", "ply", "stl", "x3d", "lwo"};
    return std::ranges::find(endings, lower_case_ending(path)) != std::end(endings);
}

std::string BoundTextures::label(std::size_t texture) const {
    const auto& needed = bindings.textures[texture];
    if (!needed.label.empty())
        return needed.label;
    return needed.image ? fmt::format("image {}", *needed.image)
                        : fmt::format("{}: no image", model.file.filename().string());
}

std::optional<yl::Sampler> BoundTextures::sampler(std::size_t texture) const {
    for (const auto& material : bindings.materials)
        for (const auto& binding : material)
            if (binding.texture == texture)
                return binding.sampler;
    return {};
}

yl::PackedChannels BoundTextures::packed(std::size_t texture) const {
    yl::PackedChannels packed;
    for (std::size_t i = 0; i < bindings.materials.size(); ++i)
        for (const auto& binding : bindings.materials[i]) {
            if (binding.texture != texture)
                continue;
            // glTF 2.0, sections 3.9.2 and 3.9.3.
            if (binding.slot == Slot::occlusion)
                packed.occlusion = yl::Channel::red;
            if (binding.slot == Slot::metallic_roughness) {
                packed.roughness = yl::Channel::green;
                if (model.materials[i].surface.metallic > 0)
                    packed.metalness = yl::Channel::blue;
            }
        }
    return packed;
}

std::optional<yl::AlphaUse> BoundTextures::alpha_use(std::size_t texture) const {
    for (std::size_t i = 0; i < bindings.materials.size(); ++i)
        for (const auto& binding : bindings.materials[i])
            if (binding.texture == texture && binding.slot == Slot::base_color)
                return model.materials[i].surface.alpha;
    return {};
}

const yl::Texture* BoundTextures::normals(std::size_t texture) const {
    const auto& image = bindings.textures[texture].normals;
    for (std::size_t i = 0; image && i < size(); ++i)
        if (bindings.textures[i].image == image && made[i].texture)
            return &*made[i].texture;
    return nullptr;
}

yl::Result<yl::LintReport> BoundTextures::lint(std::size_t texture, yl::LintOptions options) const {
    options.role = bindings.textures[texture].role;
    options.packed = packed(texture);
    options.alpha_use = alpha_use(texture);
    options.normals = normals(texture);
    if (!options.sampler)
        options.sampler = sampler(texture);
    YL_TRY(yl::LintReport report, yl::lint(*made[texture].texture, options));
    for (const yl::Finding& finding : made[texture].findings)
        report.found.push_back({finding});
    return report;
}

yl::Result<BoundTextures> read_bound_textures(const std::string& path) {
    BoundTextures textures;
    YL_TRY(textures.model, read_any_model(path, {.files = files_for(path)}));
    textures.bindings = yl::model::bindings_of(textures.model);
    textures.made = yl::model::make_textures(textures.model, textures.bindings);
    return textures;
}

}  // namespace ylat
