// The file that a model's path means, on a machine where the model was not made.
#pragma once

#include <filesystem>
#include <string>

#include <yl/result.hpp>

namespace yl::model {

enum class FoundBy : std::uint8_t {
    name,        ///< as it stands
    other_case,  ///< with other upper and lower case
    last_parts,  ///< the path led elsewhere; its last parts are below the model's folder
};

struct FoundFile {
    std::filesystem::path file = {};
    FoundBy by = FoundBy::name;
};

/// Looks in the model's folder for what the path says, or for its last parts, the most of them
/// first; where files outside are allowed, in folders beside it too. Fails with `ErrorKind::usage`
/// for a file that is there, but outside of the folder, unless that is allowed, and with
/// `ErrorKind::missing` when there is none.
[[nodiscard]] Result<FoundFile> find_file(std::string_view path,
                                          const std::filesystem::path& folder, bool allow_outside);

}  // namespace yl::model
