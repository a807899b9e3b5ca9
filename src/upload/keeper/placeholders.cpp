#include "upload/keeper/placeholders.hpp"

#include <yl/status_macros.hpp>

namespace yl {
namespace {

Result<std::unique_ptr<DeviceTexture>> make(TextureDevice& device,
                                            const std::array<std::uint8_t, 4>& color, Format format,
                                            TextureKind kind) {
    TextureShape shape{.format = format};
    shape.is_array = kind == TextureKind::flat_array || kind == TextureKind::cube_array;
    shape.faces = kind == TextureKind::cube || kind == TextureKind::cube_array ? 6 : 1;
    shape.is_3d = kind == TextureKind::volume;
    shape.is_1d = kind == TextureKind::line;
    YL_TRY(Texture texel, Texture::create(shape));
    const std::span<std::byte> bytes = texel.level(0);
    for (std::size_t i = 0; i < bytes.size(); ++i)
        bytes[i] = static_cast<std::byte>(color[i % 4]);
    const Sampler sampler{.mag = Filter::nearest, .min = Filter::nearest, .mip = MipFilter::none};
    YL_TRY(UploadedTexture uploaded,
           upload_texture(device, texel, {.sampler = sampler, .label = "placeholder"}));
    return std::move(uploaded.texture);
}

}  // namespace

std::array<std::uint8_t, 4> placeholder_color(KeeperState state, Role role) {
    if (role == Role::normal)
        return {128, 128, 255, 255};
    const bool has_failed = state == KeeperState::failed || state == KeeperState::cancelled;
    if (has_failed)
        return {226, 120, 38, 255};
    return {128, 128, 128, 255};
}

const DeviceTexture* Placeholders::get(KeeperState state, Role role, TextureKind kind) {
    const auto color = placeholder_color(state, role);
    const Format format =
        info(role).transfer == Transfer::srgb ? Format::rgba8_srgb : Format::rgba8_unorm;
    auto& texture = made_[{color, format, kind}];
    if (texture == nullptr) {
        auto made = make(device_, color, format, kind);
        if (made)
            texture = std::move(*made);
    }
    return texture.get();
}

}  // namespace yl
