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
    for (const auto& material : bindings.materials)
        for (const auto& binding : material) {
            if (binding.texture != texture)
                continue;
            // glTF 2.0, sections 3.9.2 and 3.9.3.
            if (binding.slot == Slot::occlusion)
                packed.occlusion = yl::Channel::red;
            if (binding.slot == Slot::metallic_roughness) {
                packed.roughness = yl::Channel::green;
                packed.metalness = yl::Channel::blue;
            }
        }
    return packed;
}

yl::Result<yl::LintReport> BoundTextures::lint(std::size_t texture, yl::LintOptions options) const {
    options.role = bindings.textures[texture].role;
    options.packed = packed(texture);
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
