// Textures without their top levels, to save memory.
#pragma once

#include <yl/texture.hpp>

namespace yl {

/// The shape that is left; at least one level.
[[nodiscard]] TextureShape shape_without_top_levels(const TextureShape& shape,
                                                    std::uint32_t levels);

/// A copy of what is left.
[[nodiscard]] Result<Texture> without_top_levels(const Texture& texture, std::uint32_t levels);

/// The fewest top levels to leave out so that the rest takes at most `bytes`; nothing when even the
/// last level takes more.
[[nodiscard]] std::optional<std::uint32_t> levels_to_drop(const TextureShape& shape,
                                                          std::uint64_t bytes);

}  // namespace yl
