// Models of many formats: glTF by this library, OBJ, FBX, Collada, PLY and others through Assimp.
// Needs YellowLattice::model_import.
//
//     yl::model::Model model = yl::or_exit(yl::model::read_untrusted_model("pot.obj"));
#pragma once

#include <chrono>
#include <yl/api.hpp>
#include <yl/model.hpp>

namespace yl::model {

/// Reads a model of any format that can be read; which, its content and its ending tell. Textures
/// of every kind are listed, several of one kind in their order, with how each lies over those
/// before it. Their files are looked for by either kind of slash, in the model's folder, with other
/// upper and lower case, and, where a path is of somebody else's machine, by its last parts; how a
/// file was found is said. Files outside of the model's folder are read only if that is allowed.
/// For files that are trusted: damaged ones can end the program inside of Assimp
/// (`read_untrusted_model`).
/// Fails as `read_model` does, and with `ErrorKind::unsupported` for formats that nothing reads.
[[nodiscard]] YL_API Result<Model> read_any_model(const std::filesystem::path& path,
                                                  const ModelReadOptions& options = {});

/// What reading a model may take.
struct YL_API ImportLimits {
    std::chrono::seconds time = std::chrono::seconds(60);
    std::uint64_t bytes = std::uint64_t{4} << 30;  ///< of memory
};

/// The same for files that nobody vouches for. Assimp, which reads all formats but glTF, ends the
/// program over some damaged files; so the file is read in a child process first, and by this one
/// only when that one has lived. Fails with `ErrorKind::malformed` where it has not, and with
/// `ErrorKind::limit` where it took too long or too much memory. To be called where no other
/// thread holds a lock that reading needs: the child is a fork.
[[nodiscard]] YL_API Result<Model> read_untrusted_model(const std::filesystem::path& path,
                                                        const ModelReadOptions& options = {},
                                                        const ImportLimits& limits = {});

}  // namespace yl::model
