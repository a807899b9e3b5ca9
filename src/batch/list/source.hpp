// A list as it is written: values with their places, checked for their types.
#pragma once

#define TOML_EXCEPTIONS 0
#include <toml++/toml.h>

#include <yl/batch_list.hpp>

namespace yl::batch {

/// Options that hold for some files, each checked against the vocabulary.
using OptionSet = std::map<std::string, ListOption>;

/// Options for files of certain names.
struct NamedOptions {
    std::string pattern = {};
    OptionSet options = {};
    std::map<std::string, OptionSet> by_target = {};
};

/// [[textures]], [[cubes]] ...
struct Group {
    const EntryKind* kind = nullptr;
    std::string name = {}, output = {};
    std::vector<std::string> files = {}, faces = {};
    std::map<std::string, std::string> channels = {};
    std::vector<std::string> targets = {};
    OptionSet options = {};
    std::map<std::string, OptionSet> by_target = {};
    ListPlace place = {}, files_place = {};
};

struct Target {
    std::string name = {}, output = {};
    OptionSet options = {};
};

struct ListSource {
    std::string output = {};
    OptionSet defaults = {};
    std::vector<Target> targets = {};
    std::vector<NamedOptions> names = {}, overrides = {};
    std::vector<Group> groups = {};
    ListSettings settings = {};
    std::vector<std::string> files = {};  ///< that were read
    /// Targets that groups name: lists that include each other may name each other's.
    std::vector<std::pair<std::string, ListPlace>> named_targets = {};
};

/// Reads a list, and those that it includes, into one.
[[nodiscard]] Result<ListSource> read_source(const std::filesystem::path& path,
                                             const Vocabulary& vocabulary);

/// An error at a place.
[[nodiscard]] tl::unexpected<Error> refuse(const ListPlace& place, const std::string& what);

}  // namespace yl::batch
