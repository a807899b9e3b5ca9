// A model's images and materials, for people and for programs.
#pragma once

#include <yl/model.hpp>

#include "session.hpp"

namespace ylat {

[[nodiscard]] std::string image_table(const yl::model::Model& model);
/// Materials by slots; empty when there are no textures.
[[nodiscard]] std::string slot_table(const yl::model::Model& model);
[[nodiscard]] Json transform_json(const yl::model::CoordinateTransform& transform);
[[nodiscard]] Json json_of(const yl::model::Model& model);

}  // namespace ylat
