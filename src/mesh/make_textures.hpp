// One texture of a model.
#pragma once

#include <yl/mesh_bake.hpp>

namespace yl::mesh {

[[nodiscard]] MadeTexture make_texture(const Model& model, const NeededTexture& needed,
                                       const BakeByRole& bake);

}  // namespace yl::mesh
