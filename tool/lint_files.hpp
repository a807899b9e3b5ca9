// Many files looked at for `ylat lint`, at the same time.
#pragma once

#include <span>

#include "session.hpp"

namespace ylat {

struct LintJob {
    std::string path = {};
    yl::LintOptions options = {};
};

struct LintedFile {
    std::string path = {};
    yl::Role role = yl::Role::color;  ///< that it was looked at in
    std::vector<yl::Evidence> found = {};
    std::optional<yl::Error> error = {};
    bool is_model = false;
    bool is_in_model = false;  ///< its texture, which no command finds by this path
};

/// Files as they are; of folders all pictures and texture files below, in order. Fails for a folder
/// that cannot be read or holds none.
[[nodiscard]] yl::Result<std::vector<std::string>> files_below(
    const std::vector<std::string>& paths);

/// In the order of the jobs. Equal textures among them are findings, and such as are
/// upside down beside others of their name. Of a model there is one more for each texture.
[[nodiscard]] std::vector<LintedFile> lint_files(std::span<const LintJob> jobs);

}  // namespace ylat
