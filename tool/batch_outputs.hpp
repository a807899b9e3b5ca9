// What batch lists make, for commands that look at textures.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>
#include <yl/yl.hpp>

namespace ylat {

/// A texture of a list.
struct BatchOutput {
    std::optional<yl::Role> role = {};  ///< that the list or its file's name says
    std::string source = {};  ///< the picture that it is made of; empty where there are several
};

/// Paths as a command was given them, with the outputs of lists in the lists' places.
struct PathsWithLists {
    std::vector<std::string> paths = {};
    std::map<std::string, BatchOutput> of_lists = {};  ///< by path
};

/// Lists are files that end in .toml. Fails for a list that makes no sense.
[[nodiscard]] yl::Result<PathsWithLists> with_lists(const std::vector<std::string>& paths);

}  // namespace ylat
