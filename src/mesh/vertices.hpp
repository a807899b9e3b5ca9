// What models leave out of their vertices, and where their nodes put them.
#pragma once

#include <Eigen/Core>

#include <yl/mesh_scene.hpp>

namespace yl::mesh {

/// One normal for each triangle, where the model has none: vertices are parted for it.
void make_flat_normals(MeshPart& part);

/// Tangents along u, from the triangles around each vertex, weighted by their area.
void make_tangents(MeshPart& part);

/// Moves positions, normals and tangents; mirrors turn the triangles round.
void place(MeshPart& part, const Eigen::Matrix4f& matrix);

}  // namespace yl::mesh
