// Textures without their top levels, to save memory.
#pragma once

#include <yl/texture.hpp>

namespace yl {

/// The fewest top levels to leave out so that the rest takes at most `bytes`; nothing when even the
/// last level takes more.
[[nodiscard]] std::optional<std::uint32_t> levels_to_drop(const TextureShape& shape,
                                                          std::uint64_t bytes);

}  // namespace yl
