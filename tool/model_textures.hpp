// ylat model --bake FOLDER: a model's textures as files, and what binds them.
#pragma once

#include "model_bake.hpp"

namespace ylat {

/// Of models in any format. `textures.json` lists the files, and for each material the slots, samplers
/// and coordinates by which they are bound.
[[nodiscard]] yl::Result<Exit> bake_model_textures(const Session& session, const std::string& path,
                                                   const yl::model::Model& model,
                                                   const ModelBakeChoices& choices);

}  // namespace ylat
