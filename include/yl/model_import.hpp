// Models in many formats: glTF by this library; OBJ, FBX, Collada, PLY and others through Assimp.
// Needs YellowLattice::model_import.
//
//     yl::model::Model model = yl::or_exit(yl::model::read_untrusted_model("pot.obj"));
#pragma once

#include <chrono>
#include <yl/api.hpp>
#include <yl/model.hpp>

namespace yl::model {

/// Reads a model in any known format, recognised by content and ending. Lists textures of every
/// kind, in order, with how each is blended over the earlier ones. Texture files are searched with
/// either kind of slash, in the model's folder, ignoring case and, for paths of another machine, by
/// their last parts; findings say how a file was found. Files outside the model's folder are read
/// only if that is allowed. Use it for trusted files only: damaged ones can crash Assimp and the
/// program with it (`read_untrusted_model`). Fails as `read_model` does, and with
/// `ErrorKind::unsupported` for unknown formats.
[[nodiscard]] YL_API Result<Model> read_any_model(const std::filesystem::path& path,
                                                  const ModelReadOptions& options = {});

/// Limits of time and memory for reading a model.
struct YL_API ImportLimits {
    std::chrono::seconds time = std::chrono::seconds(60);
    std::uint64_t bytes = std::uint64_t{4} << 30;  ///< of memory
};

/// The same for untrusted files. Assimp, which reads all formats except glTF, crashes on some
/// damaged files, so the file is first read in a child process, and by this process only if the
/// child survives. Fails with `ErrorKind::malformed` if it does not, and with `limit` if it takes
/// too long or too much memory. The child is a fork: no other thread may hold a lock that reading
/// needs.
[[nodiscard]] YL_API Result<Model> read_untrusted_model(const std::filesystem::path& path,
                                                        const ModelReadOptions& options = {},
                                                        const ImportLimits& limits = {});

}  // namespace yl::model
