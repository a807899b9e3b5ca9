// Materials that Assimp has read: factors, and every texture with its layer and sampler.
#pragma once

#include <assimp/material.h>

#include <string>

#include <yl/model.hpp>

namespace yl::model {

struct ImportedTexture {
    std::string path = {};  ///< as the model has it
    BoundTexture use = {};  ///< without its image
};

[[nodiscard]] Material surface_of(const aiMaterial& material);

/// All textures of all kinds, in order; also those whose use Assimp does not know.
[[nodiscard]] std::vector<ImportedTexture> textures_of(const aiMaterial& material,
                                                       Findings& findings);

}  // namespace yl::model
