// Textures of one texel that stand for what is still loading, and for what cannot be loaded.
//
//     yl::Result<yl::Texture> gray = yl::placeholder_texture(
//         yl::KeeperState::waiting, yl::Role::color, yl::TextureKind::flat);
//     if (gray)
//         std::printf("%u levels\n", gray->shape().levels);
#pragma once

#include <array>
#include <cstdint>
#include <string_view>
#include <yl/api.hpp>
#include <yl/role.hpp>
#include <yl/texture.hpp>

namespace yl {

enum class KeeperState : std::uint8_t {
    waiting,    ///< for a worker thread
    decoding,   ///< by a worker thread
    uploading,  ///< or waiting for room on the device
    ready,
    failed,
    cancelled,
};

/// "waiting", "decoding" ...
[[nodiscard]] YL_API std::string_view name(KeeperState state);

/// The kind of texture that a shader expects, and so the kind of placeholder.
enum class TextureKind : std::uint8_t { flat, flat_array, cube, cube_array, volume, line };

/// The kind of a texture of this shape.
[[nodiscard]] YL_API TextureKind kind_of(const TextureShape& shape);
/// "2D", "cube" ...
[[nodiscard]] YL_API std::string_view name(TextureKind kind);

/// The colour of placeholders as RGBA codes: a flat normal for normal maps, otherwise gray while
/// waiting and a warm orange after a failure.
[[nodiscard]] YL_API std::array<std::uint8_t, 4> placeholder_color(KeeperState state, Role role);

/// One texel of that colour in every face, in a format of the role's encoding, to be sampled by
/// `nearest`. Fails when there is no memory.
[[nodiscard]] YL_API Result<Texture> placeholder_texture(KeeperState state, Role role,
                                                         TextureKind kind);

}  // namespace yl
