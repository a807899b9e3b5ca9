#include "model/bindings.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

#include <yl/sampler_rules.hpp>

namespace yl::model {
namespace {

std::string label_of(const ModelImage& image, std::size_t index) {
    if (!image.name.empty())
        return image.name;
    if (image.source == ImageSource::file && !image.uri.empty())
        return image.uri;
    return fmt::format("image {}", index);
}

/// Finds what is needed already.
class NeededTextures {
 public:
    explicit NeededTextures(std::vector<NeededTexture>& list) : list_(list) {}

    /// Where the texture stands in the list, to which it is added if it is new.
    std::size_t place_of(NeededTexture wanted) {
        const auto [place, is_new] = places_.try_emplace(
            {wanted.image, wanted.role, wanted.cutoff, wanted.alpha}, list_.size());
        if (is_new)
            list_.push_back(std::move(wanted));
        return place->second;
    }

 private:
    using Key = std::tuple<std::optional<std::size_t>, Role, std::optional<float>, AlphaMode>;

    std::vector<NeededTexture>& list_;
    std::map<Key, std::size_t> places_ = {};
};

/// A texture with one sampler takes one unit, however many slots it serves.
std::size_t units_of(const std::vector<TextureBinding>& material) {
    std::set<std::pair<std::size_t, std::string>> units;
    for (const TextureBinding& binding : material)
        units.emplace(binding.texture, sampler_text(binding.sampler));
    return units.size();
}

/// The largest group of the material's textures that one array could hold, as a sentence.
std::string array_advice(const Model& model, const TextureBindings& bindings,
                         const std::vector<TextureBinding>& material) {
    using Kind = std::tuple<std::uint32_t, std::uint32_t, Role>;
    std::map<Kind, std::vector<std::size_t>> groups;
    for (const TextureBinding& binding : material) {
        const NeededTexture& texture = bindings.textures[binding.texture];
        if (!texture.image || model.images[*texture.image].width == 0)
            continue;
        const ModelImage& image = model.images[*texture.image];
        auto& group = groups[{image.width, image.height, texture.role}];
        if (std::ranges::find(group, binding.texture) == group.end())
            group.push_back(binding.texture);
    }
    const auto largest =
        std::ranges::max_element(groups, {}, [](const auto& group) { return group.second.size(); });
    if (largest == groups.end() || largest->second.size() < 2)
        return "no two of them have one size and role: use an atlas, or index descriptors";
    const auto& [width, height, role] = largest->first;
    return fmt::format(
        "{} of them are {} x {} in the role {}: make them the layers of one array texture, or "
        "index descriptors where the device can",
        largest->second.size(), width, height, info(role).name);
}

/// What the device makes of each texture with each of its samplers; pictures get all levels.
void check_textures(const Model& model, const TextureBindings& bindings,
                    const DeviceProfile& profile, Findings& findings) {
    std::set<std::pair<std::size_t, std::string>> known;
    for (const auto& material : bindings.materials)
        for (const TextureBinding& binding : material) {
            const NeededTexture& texture = bindings.textures[binding.texture];
            if (!texture.image || model.images[*texture.image].width == 0 ||
                !known.emplace(binding.texture, sampler_text(binding.sampler)).second)
                continue;
            const ModelImage& image = model.images[*texture.image];
            TextureShape plain{
                .format = texture.role == Role::color ? Format::rgba8_srgb : Format::rgba8_unorm,
                .width = image.width,
                .height = image.height};
            if (binding.sampler.mip != MipFilter::none)
                plain.levels = full_level_count(plain.width, plain.height);
            const TextureShape shape = image.texture.value_or(plain);
            if (std::max(shape.width, shape.height) > profile.max_2d_side)
                findings.push_back(
                    {"too-large-for-device",
                     fmt::format("{}: {} x {} texels, and the device holds {} on a side",
                                 texture.label, shape.width, shape.height, profile.max_2d_side),
                     "make it smaller", FindingLevel::error});
            for (const Finding& finding : check_on_device(
                     {.shape = shape, .sampler = binding.sampler, .role = texture.role}, profile))
                findings.push_back({finding.code, texture.label + ": " + finding.problem,
                                    finding.remedy, finding.level});
        }
}

const TextureBinding* find_slot(const std::vector<TextureBinding>& material, Slot slot) {
    const auto found = std::ranges::find(material, slot, &TextureBinding::slot);
    return found != material.end() ? &*found : nullptr;
}

/// The normals that lie on a surface texel by texel as its roughness does.
std::optional<std::size_t> normals_beside(const std::vector<TextureBinding>& material,
                                          const TextureBinding& roughness,
                                          const TextureBindings& bindings) {
    const TextureBinding* normal = find_slot(material, Slot::normal);
    if (normal == nullptr || normal->coordinate_set != roughness.coordinate_set ||
        matrix_of(normal->transform) != matrix_of(roughness.transform))
        return std::nullopt;
    return bindings.textures[normal->texture].image;
}

/// One roughness map may serve several materials: it is widened where all have the same normals.
void find_normals(TextureBindings& bindings) {
    std::map<std::size_t, std::set<std::optional<std::size_t>>> found;
    for (const auto& material : bindings.materials)
        if (const auto* roughness = find_slot(material, Slot::metallic_roughness))
            found[roughness->texture].insert(normals_beside(material, *roughness, bindings));
    for (const auto& [texture, normals] : found)
        if (normals.size() == 1)
            bindings.textures[texture].normals = *normals.begin();
}

}  // namespace

TextureBindings bindings_of(const Model& model) {
    TextureBindings bindings;
    NeededTextures needed_textures(bindings.textures);
    std::vector<Sampler> samplers;
    for (const ModelMaterial& material : model.materials) {
        std::vector<TextureBinding>& list = bindings.materials.emplace_back();
        for (const BoundTexture& bound : material.textures) {
            NeededTexture needed{.role = role_of(bound.slot),
                                 .cutoff = cutoff_of(material.surface, bound.slot),
                                 .alpha = alpha_of(material.surface, bound.slot)};
            if (bound.image) {
                needed.image = model.images[*bound.image].same_as.value_or(*bound.image);
                needed.label = label_of(model.images[*needed.image], *needed.image);
            } else {
                needed.label = fmt::format("texture {}", bound.texture);
            }
            list.push_back({.slot = bound.slot,
                            .texture = needed_textures.place_of(std::move(needed)),
                            .sampler = bound.sampler,
                            .coordinate_set = bound.coordinate_set,
                            .transform = bound.transform,
                            .factor = bound.factor,
                            .layer = bound.layer});
            if (std::ranges::find(samplers, bound.sampler) == samplers.end())
                samplers.push_back(bound.sampler);
        }
    }
    bindings.samplers = samplers.size();
    find_normals(bindings);
    return bindings;
}

BakeByRole::BakeByRole(const BakeOptions& for_all) {
    by_role_.fill(for_all);
}

BakeOptions& BakeByRole::operator[](Role role) {
    return by_role_[static_cast<std::size_t>(role)];
}

BakeOptions BakeByRole::of(const NeededTexture& texture) const {
    BakeOptions options = by_role_[static_cast<std::size_t>(texture.role)];
    options.role = texture.role;
    options.alpha = texture.alpha;
    if (texture.cutoff)
        options.coverage = texture.cutoff;
    if (texture.normals)
        options.roughness_channel = Channel::green;  // glTF 2.0, section 3.9.2
    return options;
}

namespace {

/// Where the keeper finds an image: its file, or its content.
SharedBytes content_for(const Model& model, std::optional<std::size_t> image,
                        std::filesystem::path& file) {
    const ModelImage* found = image ? &model.images[*image] : nullptr;
    const bool is_refused =
        found != nullptr && found->error.has_value() && found->error->kind == ErrorKind::usage;
    if (found != nullptr && found->source == ImageSource::file && !is_refused) {
        file = found->file;
        return {};
    }
    return image ? SharedBytes(model.contents[*image], model.source)
                 : SharedBytes(std::vector<std::byte>{});
}

}  // namespace

TextureRequest request_for(const Model& model, const NeededTexture& texture,
                           const BakeByRole& bake) {
    TextureRequest request;
    request.bake = bake.of(texture);
    request.file = texture.label;
    request.bytes = content_for(model, texture.image, request.file);
    if (texture.normals && !model.images[*texture.normals].error)
        request.normals_bytes = content_for(model, texture.normals, request.normals_file);
    return request;
}

Findings check_bindings(const Model& model, const TextureBindings& bindings,
                        const DeviceProfile& profile) {
    Findings findings;
    for (std::size_t i = 0; i < bindings.materials.size(); ++i) {
        const auto& material = bindings.materials[i];
        const std::size_t units = units_of(material);
        if (units > profile.max_textures)
            findings.push_back(
                {"too-many-textures-in-material",
                 fmt::format("material '{}' has {} textures, and a shader stage of "
                             "the device samples {}",
                             model.materials[i].surface.name, units, profile.max_textures),
                 array_advice(model, bindings, material)});
    }
    check_textures(model, bindings, profile, findings);
    for (Finding& finding : check_counts(0, bindings.samplers, profile))
        findings.push_back(std::move(finding));
    return findings;
}

std::array<float, 6> matrix_of(const std::optional<CoordinateTransform>& transform) {
    if (!transform)
        return {1, 0, 0, 0, 1, 0};
    if (transform->matrix)
        return *transform->matrix;
    // KHR_texture_transform: moved * turned * scaled, where angles run against v.
    const float c = std::cos(transform->rotation), s = std::sin(transform->rotation);
    const auto& [su, sv] = transform->scale;
    return {c * su, s * sv, transform->offset[0], -s * su, c * sv, transform->offset[1]};
}

}  // namespace yl::model
