// Tangents of vertices, where a model has none.
#pragma once

#include <yl/model_scene.hpp>

#include "base/internal.hpp"

namespace yl::model {

/// Tangents along u of a set of coordinates, as glTF 2.0 (section 3.7.2.1) asks for and normal maps
/// are made for: triangles with a side in common are one surface unless one of them is mirrored,
/// each counts by its angle at the vertex, and equal vertices are one. Vertices that two surfaces
/// share are parted. After M. Mikkelsen, "Simulation of Wrinkled Surfaces Revisited" (2008),
/// section 4.
YL_INTERNAL void make_tangents(Primitive& part, std::uint32_t set = 0);

}  // namespace yl::model
