// Models of many formats: glTF by this library, OBJ, FBX, Collada, PLY and others through Assimp.
// Needs YellowLattice::formats.
#pragma once

#include <yl/mesh.hpp>

namespace yl::mesh {

/// Reads a model of any format that can be read; which, its content and its ending tell. Textures
/// of every kind are listed, several of one kind in their order, with how each lies over those
/// before it. Their files are looked for by either kind of slash, in the model's folder, with other
/// upper and lower case, and, where a path is of somebody else's machine, by its last parts; how a
/// file was found is said. Files outside of the model's folder are read only if that is allowed.
[[nodiscard]] Result<Model> read_any_model(const std::filesystem::path& path,
                                           const ModelReadOptions& options = {});

}  // namespace yl::mesh
