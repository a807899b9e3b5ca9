// ylat model --bake: a model with its images as textures.
#pragma once

#include <yl/model_bake.hpp>

#include "session.hpp"

namespace ylat {

/// What the command line says of baking.
struct ModelBakeChoices {
    std::string output = {};
    bool keep_pictures = false;
    std::vector<std::string> formats = {};  ///< FORMAT, or ROLE=FORMAT
    std::vector<std::string> efforts = {};  ///< 0..10, or ROLE=0..10
    std::optional<std::uint32_t> max_side = {};
    std::string power_of_two = "any";
    std::string supercompression = "zstd";
};

/// What a run of `ylat model` does.
enum ModelFact : Facts {
    bakes_model = 1,  ///< or its textures alone
    lists_textures = 2,
    extracts_images = 4,
    writes_model = 8,
};

/// --bake, and what goes with it.
[[nodiscard]] std::vector<OptionTable> model_bake_options(ModelBakeChoices& choices);

[[nodiscard]] yl::Result<yl::model::ModelBakeOptions> options_of(const ModelBakeChoices& choices);

[[nodiscard]] Json texture_json(const yl::model::BakedTexture& texture);

[[nodiscard]] yl::Result<Exit> bake_model_file(const Session& session, const std::string& path,
                                               const yl::model::Model& model,
                                               const ModelBakeChoices& choices);

}  // namespace ylat
