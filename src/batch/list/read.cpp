#include <fmt/format.h>

#include <algorithm>
#include <set>

#include <yl/names.hpp>
#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "batch/list/source.hpp"

namespace yl::batch {
namespace {

namespace fs = std::filesystem;

constexpr const char* default_output = "built/{target}/{folder}/{name}.{ending}";

/// What the last * of a pattern stands for in a name.
std::string match_of(std::string_view pattern, std::string_view path) {
    const std::string name = fs::path(path).filename().string();
    const std::string last = fs::path(pattern).filename().string();
    const std::size_t star = last.rfind('*');
    if (star == std::string::npos)
        return fs::path(path).stem().string();
    const std::size_t behind = last.size() - star - 1;
    // What stands before the star may hold other stars: the shortest match that leaves a whole.
    for (std::size_t begin = 0; begin + behind <= name.size(); ++begin)
        if (matches_pattern(std::string_view(name).substr(0, begin), last.substr(0, star)))
            return name.substr(begin, name.size() - behind - begin);
    return name;
}

/// Puts values in the place of {names}.
Result<std::string> filled_in(const std::string& text,
                              const std::map<std::string, std::string>& values,
                              const ListPlace& place) {
    std::string filled;
    for (std::size_t at = 0; at < text.size(); ++at) {
        const std::size_t end = text[at] == '{' ? text.find('}', at) : std::string::npos;
        if (end == std::string::npos) {
            filled += text[at];
            continue;
        }
        const std::string name = text.substr(at + 1, end - at - 1);
        const auto value = values.find(name);
        if (value == values.end()) {
            std::vector<std::string> known;
            for (const auto& [each, unused] : values)
                known.push_back(each);
            return refuse(place, fmt::format("nothing is called {{{}}} here; did you mean {{{}}}?",
                                             name, nearest_name(name, known)));
        }
        filled += value->second;
        at = end;
    }
    return filled;
}

/// Makes the entries of a group.
class Expansion {
 public:
    Expansion(const ListSource& source, const Vocabulary& vocabulary, List& list)
        : source_(source), vocabulary_(vocabulary), list_(list) {}

    Status expand(const Group& group) {
        YL_TRY(const std::vector<Match> matches, matches_of(group));
        for (const Target* target : targets_of(group)) {
            if (group.kind->joins_files || !group.faces.empty()) {
                std::vector<std::string> inputs;
                for (const Match& match : matches)
                    inputs.push_back(match.path);
                YL_CHECK(add(group, target, matches.front(), std::move(inputs)));
                continue;
            }
            for (const Match& match : matches)
                YL_CHECK(add(group, target, match, {match.path}));
        }
        return {};
    }

 private:
    struct Match {
        std::string path = {}, pattern = {};
    };

    Result<std::vector<Match>> matches_of(const Group& group) {
        if (!group.faces.empty()) {
            std::vector<Match> faces;
            for (const std::string& face : group.faces)
                faces.push_back({face.substr(face.find('=') + 1), ""});
            return faces;
        }
        std::vector<Match> matches;
        std::set<std::string> taken;
        for (const std::string& pattern : group.files) {
            if (pattern.starts_with('!')) {
                const auto without = find_files(std::string_view(pattern).substr(1));
                std::erase_if(matches, [&](const Match& match) {
                    return std::ranges::binary_search(without, match.path);
                });
                continue;
            }
            for (std::string& path : find_files(pattern, &list_.folders))
                if (taken.insert(path).second)
                    matches.push_back({std::move(path), pattern});
        }
        if (matches.empty())
            return refuse(group.files_place,
                          fmt::format("no file matches {}", fmt::join(group.files, ", ")));
        return matches;
    }

    [[nodiscard]] std::vector<const Target*> targets_of(const Group& group) const {
        std::vector<const Target*> targets;
        for (const Target& target : source_.targets)
            if (group.targets.empty() ||
                std::ranges::find(group.targets, target.name) != group.targets.end())
                targets.push_back(&target);
        if (targets.empty())
            targets.push_back(nullptr);
        return targets;
    }

    /// What holds for fewer files takes the place of what holds for more.
    OptionSet options_of(const Group& group, const Target* target, const std::string& path) const {
        OptionSet options;
        bool is_general = true;
        const auto lay_over = [&](const OptionSet& more) {
            for (const auto& [name, option] : more)
                if (std::ranges::find(group.kind->options, name, &KnownOption::name) !=
                    group.kind->options.end()) {
                    options[name] = option;
                    options[name].is_general = is_general;
                }
        };
        const auto lay_over_named = [&](const NamedOptions& named, const std::string& subject) {
            if (!matches_pattern(subject, named.pattern))
                return;
            lay_over(named.options);
            if (target != nullptr && named.by_target.contains(target->name))
                lay_over(named.by_target.at(target->name));
        };
        lay_over(source_.defaults);
        if (target != nullptr)
            lay_over(target->options);
        for (const NamedOptions& named : source_.names)
            lay_over_named(named, fs::path(path).stem().string());
        is_general = false;
        lay_over(group.options);
        if (target != nullptr && group.by_target.contains(target->name))
            lay_over(group.by_target.at(target->name));
        for (const NamedOptions& named : source_.overrides)
            lay_over_named(named, path);
        std::erase_if(options, [&](const auto& one) {
            const auto known =
                std::ranges::find(group.kind->options, one.first, &KnownOption::name);
            return known->is_flag && !one.second.values.empty();
        });
        return options;
    }

    Status add(const Group& group, const Target* target, const Match& first,
               std::vector<std::string> inputs) {
        ListEntry entry{group.kind->name, group.name, target != nullptr ? target->name : ""};
        entry.place = group.place;
        entry.inputs = std::move(inputs);
        entry.faces = group.faces;
        std::map<std::string, std::string> values = {
            {"target", entry.target},
            {"group", group.name},
            {"folder", fs::path(first.path).parent_path().string()},
            {"name", group.kind->joins_files || !group.faces.empty()
                         ? group.name
                         : fs::path(first.path).stem().string()},
            {"match", match_of(first.pattern, first.path)},
            {"ending", group.kind->ending}};
        for (const auto& [name, option] : options_of(group, target, first.path))
            entry.options.push_back(option);
        values["role"] = settle_role(group, first.path, entry);
        for (const auto& [channel, text] : group.channels) {
            YL_TRY(const std::string file, filled_in(text, values, group.place));
            entry.channels.push_back(channel + "=" + file);
        }
        const std::string& pattern = !group.output.empty()                          ? group.output
                                     : target != nullptr && !target->output.empty() ? target->output
                                     : !source_.output.empty()                      ? source_.output
                                                               : default_output;
        if (values["name"].empty() && pattern.find("{name}") != std::string::npos)
            return refuse(group.place, fmt::format("[[{}]] makes one file of several and needs "
                                                   "'name' or 'output'",
                                                   group.kind->name));
        YL_TRY(const std::string output, filled_in(pattern, values, group.place));
        entry.output = fs::path(output).lexically_normal().string();
        return take(std::move(entry));
    }

    /// What an option says, else what the file's name tells.
    std::string settle_role(const Group& group, const std::string& path, ListEntry& entry) const {
        const auto known = std::ranges::find(group.kind->options, true, &KnownOption::names_role);
        if (known == group.kind->options.end())
            return "";
        if (const ListOption* given = entry.find(known->name))
            return given->values.front();
        const std::string told = vocabulary_.role_of ? vocabulary_.role_of(path) : "";
        if (!told.empty())
            entry.options.push_back({known->name, {told}, group.place});
        return told;
    }

    Status take(ListEntry entry) {
        const auto [before, is_new] = by_output_.emplace(entry.output, list_.entries.size());
        if (!is_new)
            return refuse(entry.place, fmt::format("{} is made of {} already, by {}", entry.output,
                                                   list_.entries[before->second].inputs.front(),
                                                   list_.entries[before->second].place.text()));
        list_.entries.push_back(std::move(entry));
        return {};
    }

    const ListSource& source_;
    const Vocabulary& vocabulary_;
    List& list_;
    std::map<std::string, std::size_t> by_output_ = {};
};

}  // namespace

const ListOption* ListEntry::find(std::string_view option) const {
    const auto found = std::ranges::find(options, option, &ListOption::name);
    return found != options.end() ? &*found : nullptr;
}

Result<List> read_list(const fs::path& path, const Vocabulary& vocabulary) try {
    YL_TRY(const ListSource source, read_source(path, vocabulary));
    List list;
    list.settings = source.settings;
    list.files = source.files;
    for (const Target& target : source.targets)
        list.targets.push_back(target.name);
    Expansion expansion(source, vocabulary, list);
    for (const Group& group : source.groups)
        YL_CHECK(expansion.expand(group));
    if (list.entries.empty())
        return fail_at({ErrorKind::usage, "the list names no files"}, path.string());
    std::ranges::sort(list.folders);
    list.folders.erase(std::unique(list.folders.begin(), list.folders.end()), list.folders.end());
    return list;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::batch
