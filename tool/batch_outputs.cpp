#include "batch_outputs.hpp"

#include <algorithm>
#include <filesystem>

#include <yl/names.hpp>
#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "batch.hpp"
#include "batch_jobs.hpp"
#include "batch_kinds.hpp"
#include "current_folder.hpp"
#include "inputs.hpp"

namespace ylat {
namespace {

namespace fs = std::filesystem;

/// The list's states: its own, and those of the parts that several machines made.
std::vector<fs::path> states_of(const fs::path& list) {
    const std::string stem = list.stem().string();
    std::vector<fs::path> states;
    std::error_code error;
    for (fs::directory_iterator at(batch_folder, error), end; !error && at != end;
         at.increment(error)) {
        const std::string name = at->path().filename().string();
        if (name == stem + ".state" || yl::matches_pattern(name, stem + ".*-of-*.state"))
            states.push_back(at->path());
    }
    std::ranges::sort(states);
    return states;
}

/// One for each entry. The folder of the list is the current one.
yl::Result<std::vector<yl::batch::Verdict>> verdicts_of(const fs::path& list,
                                                        const yl::batch::List& read) {
    const std::vector<yl::batch::Job> jobs = batch_jobs(read.entries);
    std::vector<yl::batch::Verdict> best(jobs.size());
    for (const fs::path& state : states_of(list)) {
        YL_TRY(yl::batch::Plan plan, yl::batch::plan(jobs, {.state = state}));
        for (std::size_t i = 0; i < jobs.size(); ++i)
            if (plan.verdicts[i].last &&
                (!best[i].last || plan.verdicts[i].reason == yl::batch::Reason::up_to_date))
                best[i] = std::move(plan.verdicts[i]);
    }
    return best;
}

yl::Status add_list(const fs::path& list, Verdicts wanted, PathsWithLists& all) {
    const FolderAtEnd back;
    std::error_code error;
    const fs::path folder = list.parent_path();
    if (!folder.empty())
        fs::current_path(folder, error);
    if (error)
        return yl::fail_at({yl::ErrorKind::missing, "no such list"}, list.string());
    auto read = yl::batch::read_list(list.filename(), batch_vocabulary());
    if (!read)
        return tl::unexpected(std::move(read).error());
    std::vector<yl::batch::Verdict> verdicts;
    if (wanted == Verdicts::wanted) {
        YL_TRY(verdicts, verdicts_of(list, *read));
    }
    for (std::size_t i = 0; i < read->entries.size(); ++i) {
        const yl::batch::ListEntry& entry = read->entries[i];
        BatchOutput made;
        if (i < verdicts.size() && verdicts[i].last)
            made.verdict = std::move(verdicts[i]);
        const BatchKind& kind = batch_kind(entry.kind);
        const std::string& input = entry.inputs.front();
        const bool is_of_one = !kind.joins_files && !kind.takes_channels && entry.faces.empty();
        // Lookup tables and textures are no pictures to stand beside what is made of them.
        if (const auto what = file_kind(input); is_of_one && what && *what == FileKind::picture)
            made.source = (folder / input).string();
        if (const auto* role = entry.find("role"))
            made.role = yl::find_role(role->values.front());
        all.paths.push_back((folder / entry.output).string());
        all.of_lists.emplace(all.paths.back(), std::move(made));
    }
    return {};
}

}  // namespace

yl::Result<PathsWithLists> with_lists(const std::vector<std::string>& paths, Verdicts verdicts) {
    PathsWithLists all;
    for (const std::string& path : paths)
        if (lower_case_ending(path) == "toml")
            YL_CHECK(add_list(path, verdicts, all));
        else
            all.paths.push_back(path);
    return all;
}

}  // namespace ylat
