#include "model/uses.hpp"

#include <fmt/format.h>

#include <algorithm>

#include <yl/sampler_rules.hpp>

namespace yl::model {
namespace {

constexpr float fewest_directions = 0.5F;  ///< of a normal map's texels
constexpr float most_lost_holes = 0.01F;   ///< of an opaque material's texels
constexpr std::uint32_t small_side = 32;   ///< smaller pictures hardly shimmer

class UseChecker {
 public:
    explicit UseChecker(Model& model) : model_(model) {}

    void check(const ModelMaterial& material, const BoundTexture& texture) {
        const ModelImage* image = image_of(texture);
        const std::string use =
            fmt::format("the {} texture of '{}'", name(texture.slot), material.surface.name);
        if (image != nullptr && image->texture)
            check_texture(*image->texture, texture, use);
        if (image == nullptr || !image->look || image->look->content.is_uniform)
            return;
        if (role_of(texture.slot) == Role::normal)
            check_normals(*image->look, use);
        const bool is_numbers = texture.slot == Slot::metallic_roughness;
        if (is_numbers && image->look->channels.is_gray && material.surface.metallic > 0)
            add("metalness-is-roughness",
                fmt::format("{} is gray: metalness and roughness are the same numbers", use),
                "pack roughness into green and metalness into blue, or set the metallic factor "
                "to 0");
        check_sampler(*image, texture, use);
    }

    void check_alpha(const ModelMaterial& material) {
        const auto base =
            std::ranges::find(material.textures, Slot::base_color, &BoundTexture::slot);
        const ModelImage* image = base != material.textures.end() ? image_of(*base) : nullptr;
        if (image == nullptr || !image->look || image->look->content.is_uniform)
            return;
        const Material& surface = material.surface;
        const float transparent = image->look->content.transparent;
        if (surface.alpha == AlphaUse::opaque && transparent > most_lost_holes)
            add("holes-filled",
                fmt::format("'{}' is opaque, and {:.0f} % of its base color image is transparent: "
                            "holes will be filled",
                            surface.name, 100 * transparent),
                "let its alpha be a mask or blend, or take alpha out of the image");
        if (surface.alpha != AlphaUse::opaque && image->look->channels.is_opaque &&
            surface.base_color[3] >= 1)
            add("alpha-unused",
                fmt::format("'{}' is {} by alpha, and its base color image is opaque everywhere",
                            surface.name, surface.alpha == AlphaUse::mask ? "cut out" : "blended"),
                "use an image with alpha; or make the material opaque, which is faster to draw, "
                "unless its vertices have alpha");
    }

 private:
    void add(FindingCode code, std::string problem, std::string remedy) {
        model_.findings.push_back({code, std::move(problem), std::move(remedy)});
    }

    /// The picture that a texture shows, also where a baked one stands for it.
    [[nodiscard]] const ModelImage* image_of(const BoundTexture& texture) const {
        const auto index = texture.ordinary_image ? texture.ordinary_image : texture.image;
        return index ? &model_.images[*index] : nullptr;
    }

    /// A file that is uploaded as it is.
    void check_texture(const TextureShape& shape, const BoundTexture& texture,
                       const std::string& use) {
        Findings findings = check_role(shape.format, role_of(texture.slot));
        for (Finding& finding : yl::check_sampler(shape, texture.sampler, LevelRange::of(shape)))
            findings.push_back(std::move(finding));
        for (const Finding& finding : findings)
            model_.findings.push_back(
                {finding.code, use + ": " + finding.problem, finding.remedy, finding.level});
    }

    void check_normals(const ImageLook& look, const std::string& use) {
        if (look.content.directions >= fewest_directions)
            return;
        if (look.channels.is_gray)
            add("height-as-normal", fmt::format("{} is gray: it holds heights, no normals", use),
                "make normals of the heights, or use it where heights belong");
        else
            add("no-normals",
                fmt::format("{} holds no normals: {:.0f} % of its texels can be directions", use,
                            100 * look.content.directions),
                "use a normal map of three channels, linear, with blue pointing outwards");
    }

    /// Pictures that are to look like texels are left alone.
    void check_sampler(const ModelImage& image, const BoundTexture& texture,
                       const std::string& use) {
        const Sampler& sampler = texture.sampler;
        const bool is_smooth = sampler.min == Filter::linear && sampler.mag == Filter::linear;
        if (sampler.mip == MipFilter::none && is_smooth &&
            std::max(image.width, image.height) > small_side)
            add("no-mips",
                fmt::format("{} is sampled without mip levels: far surfaces will shimmer", use),
                "let the sampler's min filter be linear between levels (9987 in glTF)");
    }

    Model& model_;
};

}  // namespace

void check_uses(Model& model) {
    UseChecker checker(model);
    for (const ModelMaterial& material : model.materials)
        for (const BoundTexture& texture : material.textures)
            checker.check(material, texture);
}

void check_alpha(Model& model) {
    UseChecker checker(model);
    for (const ModelMaterial& material : model.materials)
        checker.check_alpha(material);
}

void report_missing_sets(Model& model, const MissingSets& missing) {
    for (const auto& [material, set] : missing)
        model.findings.push_back(
            {"coordinate-set-missing",
             fmt::format("'{}' is read by coordinate set {}, which not all of its meshes have",
                         model.materials[material].surface.name, set),
             fmt::format("export the meshes with their coordinate set {}", set)});
}

}  // namespace yl::model
