// Levels and sizes of what is baked, whether it begins with a picture or with a texture.
#pragma once

#include <array>

#include <yl/bake.hpp>

namespace yl {

/// The options of the chain, with what the role settles.
[[nodiscard]] MipOptions chain_options(const BakeOptions& options, Role role);

/// The size that a texture gets of a picture's.
[[nodiscard]] std::array<std::uint32_t, 2> texture_size(std::uint32_t width, std::uint32_t height,
                                                        const BakeOptions& options);

/// Whether a texture of this size can have as many levels as are asked for.
[[nodiscard]] Status check_level_count(const BakeOptions& options, const TextureShape& shape);

/// Fills all levels of `texture` that are not given, and does what is done to a whole chain:
/// roughness for hidden normals, coverage.
[[nodiscard]] Status fill_levels(Texture& texture, const MipOptions& mips,
                                 const BakeOptions& options);

/// Whether a chain of this shape has levels left when the first ones are left out.
[[nodiscard]] Status check_first_level(const TextureShape& shape, std::uint32_t count);

/// The texture from a level of its whole chain on.
[[nodiscard]] Result<Texture> without_first_levels(const Texture& texture, std::uint32_t count);

/// The image with its rows in opposite order: a view cannot go backwards, so this one is a copy.
[[nodiscard]] Result<Image> upside_down(ConstImageView image);

}  // namespace yl
