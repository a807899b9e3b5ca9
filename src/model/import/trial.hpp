// Reading a model in a child process first, which may crash in this one's place.
#pragma once

#include <yl/model_import.hpp>

namespace yl::model {

/// Whether Assimp lives through a file, within the limits, and reads it. Its own complaints are those
/// of the child: only what it has read is to be read again.
[[nodiscard]] Status try_in_child(const std::filesystem::path& path,
                                  const ModelReadOptions& options, const ImportLimits& limits);

}  // namespace yl::model
