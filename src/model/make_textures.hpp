// One texture of a model.
#pragma once

#include <yl/model_bake.hpp>

namespace yl::model {

[[nodiscard]] MadeTexture make_texture(const Model& model, const NeededTexture& needed,
                                       const BakeByRole& bake);

}  // namespace yl::model
