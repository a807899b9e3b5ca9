#include <yl/placeholder.hpp>

#include <yl/status_macros.hpp>

namespace yl {

std::string_view name(KeeperState state) {
    constexpr std::array<std::string_view, 6> names = {"waiting", "decoding", "uploading",
                                                       "ready",   "failed",   "cancelled"};
    return names[static_cast<std::size_t>(state)];
}

std::string_view name(TextureKind kind) {
    constexpr std::array<std::string_view, 6> names = {"2D",         "2D array", "cube",
                                                       "cube array", "3D",       "1D"};
    return names[static_cast<std::size_t>(kind)];
}

TextureKind kind_of(const TextureShape& shape) {
    const bool is_array = shape.is_array || shape.layers > 1;
    if (shape.faces == 6)
        return is_array ? TextureKind::cube_array : TextureKind::cube;
    if (shape.dimensions() != 2)
        return shape.dimensions() == 3 ? TextureKind::volume : TextureKind::line;
    return is_array ? TextureKind::flat_array : TextureKind::flat;
}

std::array<std::uint8_t, 4> placeholder_color(KeeperState state, Role role) {
    if (role == Role::normal)
        return {128, 128, 255, 255};
    const bool has_failed = state == KeeperState::failed || state == KeeperState::cancelled;
    if (has_failed)
        return {226, 120, 38, 255};
    return {128, 128, 128, 255};
}

Result<Texture> placeholder_texture(KeeperState state, Role role, TextureKind kind) {
    const Transfer transfer = info(role).transfer;
    TextureShape shape{.format =
                           transfer == Transfer::srgb ? Format::rgba8_srgb : Format::rgba8_unorm};
    shape.is_array = kind == TextureKind::flat_array || kind == TextureKind::cube_array;
    shape.faces = kind == TextureKind::cube || kind == TextureKind::cube_array ? 6 : 1;
    shape.is_3d = kind == TextureKind::volume;
    shape.is_1d = kind == TextureKind::line;
    YL_TRY(Texture texture, Texture::create(shape));
    const auto color = placeholder_color(state, role);
    const std::span<std::byte> bytes = texture.level(0);
    for (std::size_t i = 0; i < bytes.size(); ++i)
        bytes[i] = static_cast<std::byte>(color[i % 4]);
    texture.metadata.transfer = transfer;
    texture.metadata.sampler =
        Sampler{.mag = Filter::nearest, .min = Filter::nearest, .mip = MipFilter::none};
    return texture;
}

}  // namespace yl
