// A model as a scene of triangles with textures.
#include <fmt/format.h>

#include <cmath>

#include <yl/model_bake.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "model/source.hpp"

namespace yl::model {
namespace {

std::optional<SurfaceTexture> Material::*member_for(Slot slot) {
    switch (slot) {
        case Slot::base_color:
            return &Material::base_color_texture;
        case Slot::metallic_roughness:
            return &Material::metallic_roughness_texture;
        case Slot::normal:
            return &Material::normal_texture;
        case Slot::occlusion:
            return &Material::occlusion_texture;
        case Slot::emissive:
            return &Material::emissive_texture;
        default:
            return nullptr;
    }
}

class SceneBuilder {
 public:
    SceneBuilder(const Model& model, Findings& findings) : model_(model), findings_(findings) {}

    Result<ModelScene> build(const BakeByRole& bake) {
        YL_TRY(scene_.parts, primitives_of(model_, findings_));
        check_positions();
        const TextureBindings bindings = bindings_of(model_);
        std::vector<MadeTexture> made = make_textures(model_, bindings, bake);
        for (std::size_t i = 0; i < made.size(); ++i) {
            places_.emplace_back();
            const auto& image = bindings.textures[i].image;
            if (made[i].error && (!image || !model_.images[*image].error))
                findings_.push_back(
                    {"image-missing",
                     fmt::format("{}: {}", bindings.textures[i].label, made[i].error->sentence()),
                     "a placeholder stands for it", FindingLevel::error});
            if (made[i].texture) {
                places_.back() = scene_.textures.size();
                scene_.textures.push_back(std::move(*made[i].texture));
            }
        }
        for (std::size_t i = 0; i < model_.materials.size(); ++i)
            YL_CHECK(add_surface(model_.materials[i].surface, bindings.materials[i]));
        scene_.surfaces.push_back(
            {.name = "no material", .base_color = {0.55F, 0.57F, 0.55F, 1}, .metallic = 0});
        return std::move(scene_);
    }

 private:
    /// What is not finite would take the rest out of sight.
    void check_positions() {
        std::size_t dropped = 0;
        for (Primitive& part : scene_.parts) {
            const auto is_finite = [&](std::uint32_t index) {
                for (const float number : part.vertices[index].position)
                    if (!std::isfinite(number) || std::abs(number) > 1e18F)
                        return false;
                return true;
            };
            std::vector<std::uint32_t> kept;
            kept.reserve(part.indices.size());
            for (std::size_t i = 0; i + 2 < part.indices.size(); i += 3) {
                const std::uint32_t* corners = &part.indices[i];
                if (is_finite(corners[0]) && is_finite(corners[1]) && is_finite(corners[2]))
                    kept.insert(kept.end(), corners, corners + 3);
                else
                    ++dropped;
            }
            if (kept.size() == part.indices.size())
                continue;
            part.indices = std::move(kept);
            for (Vertex& vertex : part.vertices)
                for (float& number : vertex.position)
                    number = std::isfinite(number) && std::abs(number) <= 1e18F ? number : 0;
        }
        if (dropped > 0)
            findings_.push_back({"triangles-nowhere",
                                 fmt::format("{} triangles have corners that are nowhere", dropped),
                                 "they are not drawn: mend the model's positions"});
    }

    Status add_surface(const Material& from, const std::vector<TextureBinding>& bindings) {
        Material surface = from;
        for (const TextureBinding& binding : bindings) {
            const auto target = member_for(binding.slot);
            if (target == nullptr || surface.*target)  // only the first layer is drawn
                continue;
            if (binding.slot == Slot::normal)
                surface.normal_scale = binding.factor;
            if (binding.slot == Slot::occlusion)
                surface.occlusion_strength = binding.factor;
            if (binding.coordinate_set > 1)
                findings_.push_back(
                    {"coordinate-set-not-drawn",
                     fmt::format("the {} texture of '{}' uses coordinate set {}",
                                 name(binding.slot), surface.name, binding.coordinate_set),
                     "sets 0 and 1 are drawn: it is drawn by set 0"});
            SurfaceTexture use{.sampler = binding.sampler,
                               .coordinate_set = binding.coordinate_set == 1 ? std::uint32_t{1} : 0,
                               .matrix = matrix_of(binding.transform)};
            if (places_[binding.texture]) {
                use.texture = *places_[binding.texture];
                surface.*target = use;
            } else {
                YL_CHECK(stand_in(binding.slot, use, surface));
            }
        }
        scene_.surfaces.push_back(std::move(surface));
        return {};
    }

    /// The base colour is the placeholder's; other slots do as if they were not used.
    Status stand_in(Slot slot, SurfaceTexture use, Material& surface) {
        if (slot == Slot::emissive)
            surface.emissive = {0, 0, 0};
        if (slot == Slot::metallic_roughness)
            surface.metallic = 0;
        if (slot != Slot::base_color)
            return {};
        if (!placeholder_) {
            YL_TRY(Texture texel, Texture::create({.format = Format::rgba8_srgb}));
            const auto color = placeholder_color(KeeperState::failed, Role::color);
            for (std::size_t c = 0; c < 4; ++c)
                texel.level(0)[c] = static_cast<std::byte>(color[c]);
            placeholder_ = scene_.textures.size();
            scene_.textures.push_back(std::move(texel));
        }
        use.texture = *placeholder_;
        use.is_placeholder = true;
        surface.base_color_texture = use;
        return {};
    }

    const Model& model_;
    Findings& findings_;
    ModelScene scene_ = {};
    std::vector<std::optional<std::size_t>> places_ = {};
    std::optional<std::size_t> placeholder_ = {};
};

}  // namespace

Result<std::vector<Primitive>> primitives_of(const Model& model, Findings& findings) try {
    if (!model.source)
        return fail(ErrorKind::usage, "the model has not been read from a file");
    return model.source->parts(findings);
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

Result<ModelScene> scene_of(const Model& model, Findings& findings, const BakeByRole& bake) {
    return SceneBuilder(model, findings).build(bake);
}

}  // namespace yl::model
