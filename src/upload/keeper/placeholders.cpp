#include "upload/keeper/placeholders.hpp"

namespace yl {

const DeviceTexture* Placeholders::get(KeeperState state, Role role, TextureKind kind) {
    const Format format =
        info(role).transfer == Transfer::srgb ? Format::rgba8_srgb : Format::rgba8_unorm;
    auto& made = made_[{placeholder_color(state, role), format, kind}];
    if (made == nullptr) {
        auto texel = placeholder_texture(state, role, kind);
        auto uploaded = texel ? upload_texture(device_, *texel, {.label = "placeholder"})
                              : tl::unexpected(texel.error());
        if (uploaded)
            made = std::move(uploaded->texture);
    }
    return made.get();
}

}  // namespace yl
