// ylat bake with a folder as its output: each picture by itself, in the role that its name tells.
#pragma once

#include <functional>

#include "session.hpp"

namespace ylat {

/// "NAME=ROLE": files whose names match a pattern with * and ? have the role.
struct RolePattern {
    std::string pattern = {};
    yl::Role role = yl::Role::color;
};

[[nodiscard]] yl::Result<std::vector<RolePattern>> parse_role_patterns(
    const std::vector<std::string>& texts);

/// The words of a name without folder and ending, of letters alone and in lower case.
[[nodiscard]] std::vector<std::string> words_of_name(const std::string& path);

/// The role that a file's name tells: by the first pattern that matches its name without folder and
/// ending, else by its words ("wall_normal", "bark-roughness"); nothing for any other name.
[[nodiscard]] std::optional<yl::Role> role_of_name(const std::string& path,
                                                   const std::vector<RolePattern>& patterns);

/// Whether an output is a folder: it ends with a slash, or is one and not named as a texture file.
[[nodiscard]] bool is_folder(const std::string& output);

/// What became of one input, for people and for programs.
struct BakedOne {
    std::string line = {};
    Json entry = Json::object();
};

/// Bakes every input into the folder, several at once; one that fails does not stop the others. `bake`
/// writes what becomes `output` as `file`. The exit code is that of the worst failure.
[[nodiscard]] yl::Result<Exit> bake_into_folder(
    const Session& session, const std::vector<std::string>& paths, const std::string& folder,
    const std::function<yl::Result<BakedOne>(const std::string& path, const std::string& output,
                                             const std::string& file)>& bake);

}  // namespace ylat
