// What models leave out of their vertices, and where their nodes put them.
#pragma once

#include <Eigen/Core>

#include <yl/mesh_scene.hpp>

namespace yl::mesh {

/// One normal for each triangle, where the model has none: vertices are parted for it.
void make_flat_normals(MeshPart& part);

/// Moves positions, normals and tangents; mirrors turn the triangles round.
void place(MeshPart& part, const Eigen::Matrix4f& matrix);

}  // namespace yl::mesh
