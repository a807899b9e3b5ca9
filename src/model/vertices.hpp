// What models leave out of their vertices, and where their nodes put them.
#pragma once

#include <Eigen/Core>

#include <yl/model_scene.hpp>

#include "base/internal.hpp"

namespace yl::model {

/// One normal for each triangle, where the model has none: vertices are parted for it.
YL_INTERNAL void make_flat_normals(Primitive& part);

/// Moves positions, normals and tangents; mirrors turn the triangles round.
YL_INTERNAL void place(Primitive& part, const Eigen::Matrix4f& matrix);

}  // namespace yl::model
