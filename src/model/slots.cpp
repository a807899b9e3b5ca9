#include "model/slots.hpp"

namespace yl::model {
namespace {

// glTF 2.0, section 3.9, and the KHR_materials extensions.
constexpr SlotPlace slots[] = {
    {Slot::base_color, "base color", Role::color, "pbrMetallicRoughness/baseColorTexture"},
    {Slot::metallic_roughness, "metallic-roughness", Role::data,
     "pbrMetallicRoughness/metallicRoughnessTexture"},
    {Slot::normal, "normal", Role::normal, "normalTexture"},
    {Slot::occlusion, "occlusion", Role::data, "occlusionTexture"},
    {Slot::emissive, "emissive", Role::color, "emissiveTexture"},
    {Slot::clearcoat, "clearcoat", Role::data,
     "extensions/KHR_materials_clearcoat/clearcoatTexture"},
    {Slot::clearcoat_roughness, "clearcoat roughness", Role::data,
     "extensions/KHR_materials_clearcoat/clearcoatRoughnessTexture"},
    {Slot::clearcoat_normal, "clearcoat normal", Role::normal,
     "extensions/KHR_materials_clearcoat/clearcoatNormalTexture"},
    {Slot::sheen_color, "sheen color", Role::color,
     "extensions/KHR_materials_sheen/sheenColorTexture"},
    {Slot::sheen_roughness, "sheen roughness", Role::data,
     "extensions/KHR_materials_sheen/sheenRoughnessTexture"},
    {Slot::specular, "specular", Role::data, "extensions/KHR_materials_specular/specularTexture"},
    {Slot::specular_color, "specular color", Role::color,
     "extensions/KHR_materials_specular/specularColorTexture"},
    {Slot::transmission, "transmission", Role::data,
     "extensions/KHR_materials_transmission/transmissionTexture"},
    {Slot::diffuse_transmission, "diffuse transmission", Role::data,
     "extensions/KHR_materials_diffuse_transmission/diffuseTransmissionTexture"},
    {Slot::diffuse_transmission_color, "diffuse transmission color", Role::color,
     "extensions/KHR_materials_diffuse_transmission/diffuseTransmissionColorTexture"},
    {Slot::thickness, "thickness", Role::data, "extensions/KHR_materials_volume/thicknessTexture"},
    {Slot::iridescence, "iridescence", Role::data,
     "extensions/KHR_materials_iridescence/iridescenceTexture"},
    {Slot::iridescence_thickness, "iridescence thickness", Role::data,
     "extensions/KHR_materials_iridescence/iridescenceThicknessTexture"},
    {Slot::anisotropy, "anisotropy", Role::data,
     "extensions/KHR_materials_anisotropy/anisotropyTexture"},
    {Slot::ambient, "ambient", Role::color, ""},
    {Slot::opacity, "opacity", Role::mask, ""},
    {Slot::height, "height", Role::height, ""},
    {Slot::displacement, "displacement", Role::height, ""},
    {Slot::glossiness, "glossiness", Role::data, ""},
    {Slot::roughness, "roughness", Role::data, ""},
    {Slot::metalness, "metalness", Role::data, ""},
    {Slot::light_map, "light map", Role::color, ""},
    {Slot::reflection, "reflection", Role::color, ""},
    {Slot::specular_glossiness, "specular-glossiness", Role::color,
     "extensions/KHR_materials_pbrSpecularGlossiness/specularGlossinessTexture"},
    {Slot::diffuse, "diffuse", Role::color, diffuse_path},
    {Slot::other, "other", Role::color, ""},
};

}  // namespace

std::span<const SlotPlace> slot_places() {
    return slots;
}

std::string_view name(Slot slot) {
    return slots[static_cast<std::size_t>(slot)].name;
}

Role role_of(Slot slot) {
    return slots[static_cast<std::size_t>(slot)].role;
}

std::string_view name(ImageSource source) {
    constexpr std::string_view names[] = {"file", "data URI", "buffer view", "embedded",
                                          "raw pixels"};
    return names[static_cast<std::size_t>(source)];
}

}  // namespace yl::model
