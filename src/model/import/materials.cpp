#include "model/import/materials.hpp"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>

namespace yl::model {
namespace {

struct KindOfTexture {
    aiTextureType type;
    Slot slot;
};

constexpr KindOfTexture kinds[] = {
    {aiTextureType_BASE_COLOR, Slot::base_color},
    {aiTextureType_DIFFUSE, Slot::base_color},
    {aiTextureType_METALNESS, Slot::metalness},
    {aiTextureType_DIFFUSE_ROUGHNESS, Slot::roughness},
    {aiTextureType_NORMALS, Slot::normal},
    {aiTextureType_NORMAL_CAMERA, Slot::normal},
    {aiTextureType_AMBIENT_OCCLUSION, Slot::occlusion},
    {aiTextureType_EMISSIVE, Slot::emissive},
    {aiTextureType_EMISSION_COLOR, Slot::emissive},
    {aiTextureType_SPECULAR, Slot::specular_color},
    {aiTextureType_AMBIENT, Slot::ambient},
    {aiTextureType_OPACITY, Slot::opacity},
    {aiTextureType_HEIGHT, Slot::height},
    {aiTextureType_DISPLACEMENT, Slot::displacement},
    {aiTextureType_SHININESS, Slot::glossiness},
    {aiTextureType_LIGHTMAP, Slot::light_map},
    {aiTextureType_REFLECTION, Slot::reflection},
    {aiTextureType_SHEEN, Slot::sheen_color},
    {aiTextureType_CLEARCOAT, Slot::clearcoat},
    {aiTextureType_TRANSMISSION, Slot::transmission},
    {aiTextureType_UNKNOWN, Slot::other},
};

std::string text_of(const aiMaterial& material) {
    aiString name;
    return material.Get(AI_MATKEY_NAME, name) == AI_SUCCESS ? name.C_Str() : "";
}

std::optional<Wrap> wrap_of(int mode) {
    switch (mode) {
        case aiTextureMapMode_Wrap:
            return Wrap::repeat;
        case aiTextureMapMode_Clamp:
            return Wrap::clamp_to_edge;
        case aiTextureMapMode_Mirror:
            return Wrap::mirror;
        case aiTextureMapMode_Decal:  // nothing beyond the texture
            return Wrap::clamp_to_border;
        default:
            return std::nullopt;
    }
}

const char* operation_name(int operation) {
    constexpr const char* names[] = {"multiply", "add",        "subtract",
                                     "divide",   "smooth add", "signed add"};
    const bool is_known = operation >= 0 && operation < static_cast<int>(std::size(names));
    return is_known ? names[operation] : "replace";
}

/// Assimp moves, turns and then scales, all about the middle: S R (uv - m + t) + m, where m is
/// (0.5, 0.5), and angles run from u to v.
std::optional<CoordinateTransform> transform_of(const aiMaterial& material, aiTextureType type,
                                                unsigned index) {
    aiUVTransform from;
    if (material.Get(AI_MATKEY_UVTRANSFORM(type, index), from) != AI_SUCCESS)
        return std::nullopt;
    const auto& [su, sv] = from.mScaling;
    const float c = std::cos(from.mRotation), s = std::sin(from.mRotation);
    const float u = from.mTranslation.x - 0.5F, v = from.mTranslation.y - 0.5F;
    const std::array<float, 6> matrix = {su * c, -su * s, su * (c * u - s * v) + 0.5F,
                                         sv * s, sv * c,  sv * (s * u + c * v) + 0.5F};
    if (matrix == std::array<float, 6>{1, 0, 0, 0, 1, 0})
        return std::nullopt;
    CoordinateTransform transform;
    transform.rotation = -from.mRotation;
    transform.scale = {su, sv};
    transform.offset = {matrix[2], matrix[5]};
    if (from.mRotation != 0 && su != sv)
        transform.matrix = matrix;
    return transform;
}

ImportedTexture texture_of(const aiMaterial& material, const KindOfTexture& kind, unsigned index,
                           Findings& findings) {
    ImportedTexture texture;
    texture.use.slot = kind.slot;
    aiString path;
    aiTextureMapping mapping = aiTextureMapping_UV;
    unsigned set = 0;
    ai_real strength = 1;
    aiTextureMapMode modes[3] = {aiTextureMapMode_Wrap, aiTextureMapMode_Wrap,
                                 aiTextureMapMode_Wrap};
    material.GetTexture(kind.type, index, &path, &mapping, &set, &strength, nullptr, modes);
    int operation = -1;
    material.Get(AI_MATKEY_TEXOP(kind.type, index), operation);
    texture.path = path.C_Str();
    texture.use.coordinate_set = set;
    texture.use.transform = transform_of(material, kind.type, index);
    for (std::size_t axis = 0; axis < 2; ++axis)
        texture.use.sampler.wrap[axis] = wrap_of(modes[axis]).value_or(Wrap::repeat);
    texture.use.sampler.wrap[2] = texture.use.sampler.wrap[1];
    const bool has_operation = operation >= 0;
    if (index > 0 || has_operation || strength != 1)
        texture.use.layer =
            LayerBlend{has_operation ? operation_name(operation) : "replace", strength};
    int flags = 0;
    material.Get(AI_MATKEY_TEXFLAGS(kind.type, index), flags);
    if ((flags & aiTextureFlags_Invert) != 0)
        findings.push_back({"texture-inverted",
                            fmt::format("'{}' wants {} inverted", text_of(material), texture.path),
                            "invert the picture, or do it in the shader"});
    return texture;
}

/// Properties like "$raw.Bump|file": connections that Assimp passes on without knowing them.
void add_unknown(const aiMaterial& material, std::vector<ImportedTexture>& textures) {
    for (unsigned i = 0; i < material.mNumProperties; ++i) {
        const aiMaterialProperty& property = *material.mProperties[i];
        const std::string_view key = property.mKey.C_Str();
        if (!key.starts_with("$raw.") || !key.ends_with("|file"))
            continue;
        aiString path;
        if (material.Get(property.mKey.C_Str(), property.mSemantic, property.mIndex, path) !=
            AI_SUCCESS)
            continue;
        const auto is_known = [&](const ImportedTexture& texture) {
            return texture.path == path.C_Str();
        };
        if (path.length > 0 && std::ranges::none_of(textures, is_known))
            textures.push_back({path.C_Str(), {.slot = Slot::other}});
    }
}

}  // namespace

Material surface_of(const aiMaterial& material) {
    Material surface;
    surface.name = text_of(material);
    surface.metallic = 0;
    surface.roughness = 0.7F;
    aiColor4D color(1, 1, 1, 1);
    if (material.Get(AI_MATKEY_BASE_COLOR, color) != AI_SUCCESS)
        material.Get(AI_MATKEY_COLOR_DIFFUSE, color);
    surface.base_color = {color.r, color.g, color.b, color.a};
    aiColor3D glow(0, 0, 0);
    if (material.Get(AI_MATKEY_COLOR_EMISSIVE, glow) == AI_SUCCESS)
        surface.emissive = {glow.r, glow.g, glow.b};
    material.Get(AI_MATKEY_METALLIC_FACTOR, surface.metallic);
    material.Get(AI_MATKEY_ROUGHNESS_FACTOR, surface.roughness);
    ai_real opacity = 1;
    if (material.Get(AI_MATKEY_OPACITY, opacity) == AI_SUCCESS && opacity < 1 && opacity > 0) {
        surface.base_color[3] = opacity;
        surface.alpha = AlphaUse::blend;
    }
    int two_sided = 0;
    material.Get(AI_MATKEY_TWOSIDED, two_sided);
    surface.is_two_sided = two_sided != 0;
    int shading = 0;
    material.Get(AI_MATKEY_SHADING_MODEL, shading);
    surface.is_unlit = shading == aiShadingMode_NoShading;
    return surface;
}

std::vector<ImportedTexture> textures_of(const aiMaterial& material, Findings& findings) {
    std::vector<ImportedTexture> textures;
    for (const KindOfTexture& kind : kinds)
        for (unsigned i = 0; i < material.GetTextureCount(kind.type); ++i) {
            ImportedTexture texture = texture_of(material, kind, i, findings);
            // Some readers give one texture as two kinds that are one slot here.
            const auto is_same = [&](const ImportedTexture& known) {
                return known.path == texture.path && known.use.slot == texture.use.slot &&
                       !texture.use.layer;
            };
            if (std::ranges::none_of(textures, is_same))
                textures.push_back(std::move(texture));
        }
    add_unknown(material, textures);
    return textures;
}

}  // namespace yl::model
