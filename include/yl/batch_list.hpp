// A list of textures to build, in TOML: groups of files, options, and the targets that they are built
// for. Needs YellowLattice::batch.
//
//     yl::batch::EntryKind textures = {.name = "textures", .ending = "ktx2", .options = {{.name = "as"}}};
//     yl::batch::List list = yl::or_exit(yl::batch::read_list("textures.toml", {{textures}}));
//     for (const yl::batch::ListEntry& entry : list.entries)
//         std::printf("%s of %s\n", entry.output.c_str(), entry.inputs[0].c_str());
//
// What kinds of groups there are, and what their options are called, is the program's to say.
#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>
#include <yl/batch.hpp>
#include <yl/result.hpp>

namespace yl::batch {

/// A place in a list: "textures.toml:12:1".
struct YL_API ListPlace {
    std::string file = {};
    std::uint32_t line = 0, column = 0;

    /// File, line and column.
    [[nodiscard]] std::string text() const;
};

/// An option that entries of a kind may have.
struct KnownOption {
    std::string name = {};
    bool is_flag = false;        ///< true or false
    bool takes_several = false;  ///< a list of values
    bool names_role = false;     ///< its value is what {role} stands for
};

/// What kinds of entries there are: the name of their groups, and what is made of the files.
struct EntryKind {
    std::string name = {};     ///< "textures": [[textures]]
    std::string ending = {};   ///< of outputs: "ktx2"
    bool joins_files = false;  ///< all files of a group become one output
    bool takes_faces = false;  ///< `faces` instead of `files`
    bool takes_channels = false;
    std::vector<KnownOption> options = {};
};

/// All that a list may say.
struct Vocabulary {
    std::vector<EntryKind> kinds = {};  ///< of groups
    /// The role that a file's name tells, where no option does; "" for none. May be empty.
    std::function<std::string(const std::string& path)> role_of = {};
};

/// An option as it stands in a list.
struct ListOption {
    std::string name = {};
    std::vector<std::string> values = {};  ///< none for a flag
    ListPlace place = {};
    bool is_general =
        false;  ///< of defaults, a target or names, rather than of the entry's own group
};

/// One output.
struct YL_API ListEntry {
    std::string kind = {}, group = {}, target = {};
    std::vector<std::string> inputs = {};    ///< by the list's folder
    std::vector<std::string> faces = {};     ///< of a cube, each as FILE or FACE=FILE
    std::vector<std::string> channels = {};  ///< "r=FILE:g"
    std::string output = {};
    std::vector<ListOption> options = {};  ///< by name
    ListPlace place = {};                  ///< of its group

    /// The option of this name; null where it is not given.
    [[nodiscard]] const ListOption* find(std::string_view option) const;
};

/// Where things are kept, as the list says; each may be left out.
struct ListSettings {
    std::optional<std::string> cache = {}, shared_cache = {};
    std::optional<std::uint64_t> cache_size = {}, memory = {};
};

/// What a list says.
struct List {
    std::vector<ListEntry> entries = {};  ///< in the order of kinds, groups, targets and files
    ListSettings settings = {};
    std::vector<std::string> files = {};    ///< the list and what it includes
    std::vector<std::string> folders = {};  ///< that were searched for files
    std::vector<std::string> targets = {};
};

/// Reads a list and finds its files. Paths in it are by its folder, whose name `folder` is ("" for the
/// current one). Fails with `ErrorKind::usage` for unknown keys, with the nearest known one, for values
/// of a wrong type, for groups that match no file, and for two outputs of one name; the error's place is
/// file, line and column.
[[nodiscard]] YL_API Result<List> read_list(const std::filesystem::path& path,
                                            const Vocabulary& vocabulary);

/// Files below the current folder that match a pattern with *, ? and **, the last for any folders; in
/// order. Names that begin with a dot are matched by patterns that do so too. `folders` gets each folder
/// that was searched.
[[nodiscard]] YL_API std::vector<std::string> find_files(
    std::string_view pattern, std::vector<std::string>* folders = nullptr);

}  // namespace yl::batch
