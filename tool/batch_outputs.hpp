// What batch lists make, for commands that look at textures.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>
#include <yl/batch.hpp>
#include <yl/yl.hpp>

namespace ylat {

/// A texture of a list.
struct BatchOutput {
    std::optional<yl::Role> role = {};  ///< that the list or its file's name says
    std::string source = {};  ///< the picture that it is made of; empty where there are several
    /// What a batch would do with it, and how it was made last; only if that is asked for.
    std::optional<yl::batch::Verdict> verdict = {};
};

/// Paths as a command was given them, with the outputs of lists in the lists' places.
struct PathsWithLists {
    std::vector<std::string> paths = {};
    std::map<std::string, BatchOutput> of_lists = {};  ///< by path
};

/// Whether verdicts are wanted, for which all inputs are looked at.
enum class Verdicts : std::uint8_t { none, wanted };

/// Lists are files that end in .toml. Fails for a list that makes no sense.
[[nodiscard]] yl::Result<PathsWithLists> with_lists(const std::vector<std::string>& paths,
                                                    Verdicts verdicts = Verdicts::none);

}  // namespace ylat
