// ylat draw mesh: a model with its textures.
#pragma once

#include "session.hpp"

namespace ylat {

/// What the command line says of such a picture.
struct MeshChoices {
    std::string model = {}, output = {};
    std::string api = "cpu";
    std::string device = {};  ///< a part of its name
    std::string show = "lit";
    std::string sampler = {};  ///< parts that take the place of the model's own
    bool allow_outside = false;
    yl::MeshView view = {};
};

/// What the colours of a picture stand for, where they stand for something.
[[nodiscard]] std::vector<yl::ColorKey> color_keys(const yl::MeshScene& scene, yl::MeshShow show);

[[nodiscard]] yl::Result<Exit> draw_mesh(const Session& session, const MeshChoices& choices);

}  // namespace ylat
