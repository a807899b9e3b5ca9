// The textures of a model, looked at for what its materials make of them.
#pragma once

#include "lint_files.hpp"

namespace ylat {

/// One for the model itself, and one for each texture that its materials bind: "FILE: NAME". One with
/// an error for a model that cannot be read.
[[nodiscard]] std::vector<LintedFile> lint_model(const LintJob& job);

}  // namespace ylat
