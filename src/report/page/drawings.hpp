// Scenes of a texture: the numbers that the page's shaders draw them by, and pictures of them for
// readers whose browser has no WebGL.
#pragma once

#include <yl/result.hpp>
#include <yl/sampler.hpp>
#include <yl/texture.hpp>

#include "report/page/json.hpp"

namespace yl::report {

/// A sampler by its parts.
[[nodiscard]] Json sampler_json(const Sampler& sampler);

/// Name, size and numbers of each scene that shows the texture.
[[nodiscard]] Json scenes_of(const Texture& texture);

/// The scenes through the sampler, and the first of them through four that people choose between, as
/// base64 of JPEG. `first` is the texture's first layer and slice.
[[nodiscard]] Result<Json> drawings_of(const Texture& first, const Sampler& sampler);

}  // namespace yl::report
