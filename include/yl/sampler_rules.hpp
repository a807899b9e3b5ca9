// What a sampler asks of a texture, and what happens when the texture does not have it.
#pragma once

#include <algorithm>
#include <yl/finding.hpp>
#include <yl/sampler.hpp>
#include <yl/texture.hpp>

namespace yl {

/// The mip levels that a program declares a texture to have: OpenGL's base and max level. The
/// backends declare just what is there; OpenGL's own default is 0 .. 1000.
struct LevelRange {
    std::uint32_t base = 0;
    std::uint32_t max = 1000;

    [[nodiscard]] static LevelRange of(const TextureShape& shape) { return {0, shape.levels - 1}; }
};

/// Whether the texture is complete for the sampler (OpenGL 4.6 core, section 8.17): a min filter
/// that uses mip levels needs all of them, from the base level to the max level or 1 x 1. An
/// incomplete texture is sampled as opaque black.
[[nodiscard]] bool is_complete(const TextureShape& shape, const Sampler& sampler, LevelRange range);

/// Everything about the pair that will not look as meant.
[[nodiscard]] Findings check_sampler(const TextureShape& shape, const Sampler& sampler,
                                     LevelRange range);

}  // namespace yl
