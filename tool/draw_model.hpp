// ylat draw model: a model with its textures.
#pragma once

#include "session.hpp"

namespace ylat {

/// What the command line says of such a picture.
struct ModelChoices {
    std::string model = {}, output = {};
    std::string api = "cpu";
    std::string device = {};  ///< a part of its name
    std::string show = "lit";
    std::string sampler = {};  ///< parts that take the place of the model's own
    bool allow_outside = false;
    yl::ModelView view = {};
};

/// What the colours of a picture stand for, where they stand for something.
[[nodiscard]] std::vector<yl::ColorKey> color_keys(const yl::ModelScene& scene, yl::ModelShow show);

[[nodiscard]] yl::Result<Exit> draw_model(const Session& session, const ModelChoices& choices);

}  // namespace ylat
