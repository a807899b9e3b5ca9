// ylat batch: many textures from a list, only those that changed.
#include "batch.hpp"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <unistd.h>
#include <yl/folder_watch.hpp>
#include <yl/names.hpp>

#include <algorithm>
#include <filesystem>
#include <map>
#include <memory>
#include <set>

#include <yl/status_macros.hpp>

#include "arguments.hpp"
#include "batch_view.hpp"
#include "current_folder.hpp"
#include "describe.hpp"

namespace ylat {
namespace {

namespace fs = std::filesystem;
using yl::batch::Job;
using yl::batch::ListEntry;

std::string absolute(const std::string& path) {
    std::error_code error;
    return path.empty() ? path : fs::absolute(path, error).lexically_normal().string();
}

bool is_url(const std::string& text) {
    return text.starts_with("http://") || text.starts_with("https://");
}

/// Each combination of options that a list has is tried once, before anything is built.
yl::Status check_entries(const std::vector<ListEntry>& entries) {
    std::set<std::string> checked;
    for (const ListEntry& entry : entries) {
        std::string options = entry.kind;
        for (const auto& option : entry.options)
            options += fmt::format("\n{}={}", option.name, fmt::join(option.values, ","));
        if (checked.insert(options).second)
            YL_CHECK(check_batch_words(entry));
    }
    return {};
}

/// What a command line would do the same as an entry.
std::string command_text(const ListEntry& entry) {
    std::string text;
    for (const auto& words : batch_words(entry, entry.output, "PACKED.png")) {
        text += text.empty() ? "ylat" : ", then ylat";
        for (const std::string& word : words)
            text += " " + word;
    }
    return text;
}

std::string escaped_for_make(const std::string& path) {
    std::string text;
    for (const char letter : path) {
        if (letter == ' ' || letter == '#' || letter == '\\')
            text += '\\';
        if (letter == '$')
            text += '$';
        text += letter;
    }
    return text;
}

}  // namespace

yl::Status Batch::enter_folder() {
    for (std::string* path : {&log, &depfile, &stamp, &cache, &result, &join})
        *path = absolute(*path);
    if (!is_url(shared_cache))
        shared_cache = absolute(shared_cache);
    std::error_code error;
    const fs::path path = absolute(list);
    if (!fs::is_regular_file(path, error))
        return yl::fail_at({yl::ErrorKind::missing, "no such list"}, list);
    fs::current_path(path.parent_path(), error);
    if (error)
        return yl::fail_at({yl::ErrorKind::io, "cannot enter the folder: " + error.message()},
                           path.parent_path().string());
    list = path.filename().string();
    return {};
}

yl::Result<std::unique_ptr<Batch::Work>> Batch::read_work() const {
    auto work = std::make_unique<Work>();
    YL_TRY(work->list, yl::batch::read_list(list, batch_vocabulary()));
    for (const std::string& target : targets)
        if (std::ranges::find(work->list.targets, target) == work->list.targets.end())
            return yl::fail_at({yl::ErrorKind::usage,
                                work->list.targets.empty()
                                    ? "the list has no targets"
                                    : fmt::format("there is no target '{}'; the list has {}",
                                                  target, fmt::join(work->list.targets, ", "))},
                               "--target");
    work->entries = std::move(work->list.entries);
    YL_CHECK(check_entries(work->entries));
    work->all_jobs = batch_jobs(work->entries);
    for (const Job& job : work->all_jobs) {
        const bool is_named =
            only.empty() || std::ranges::any_of(only, [&](const auto& pattern) {
                return yl::matches_pattern(job.output, pattern) ||
                       std::ranges::any_of(job.inputs, [&](const std::string& input) {
                           return yl::matches_pattern(input, pattern);
                       });
            });
        if (is_named &&
            (targets.empty() || std::ranges::find(targets, job.target) != targets.end()))
            work->jobs.push_back(job);
    }
    if (work->jobs.empty())
        return yl::fail_at({yl::ErrorKind::usage, "nothing in the list is called so"}, "--only");
    if (shard.empty())
        return work;
    YL_TRY(const auto part, parse_shard(shard));
    YL_TRY(const auto mine, yl::batch::shard(work->jobs, part.first, part.second));
    std::vector<Job> jobs;
    for (const std::size_t job : mine)
        jobs.push_back(work->jobs[job]);
    work->jobs = std::move(jobs);
    return work;
}

std::string Batch::state_path() const {
    std::string name = fs::path(list).stem().string();
    // Machines that share a folder write files of their own.
    if (!shard.empty())
        name += "." + shard.substr(0, shard.find('/')) + "-of-" + shard.substr(shard.find('/') + 1);
    return std::string(batch_folder) + "/" + name + ".state";
}

yl::batch::BuildOptions Batch::plan_options() const {
    yl::batch::BuildOptions options;
    options.state = state_path();
    options.work = std::string(batch_folder) + "/work";
    options.force = force;
    options.compare_contents = compares;
    return options;
}

yl::Result<yl::batch::BuildOptions> Batch::build_options(const Work& work) const {
    const yl::batch::ListSettings& settings = work.list.settings;
    yl::batch::BuildOptions options = plan_options();
    options.max_memory = settings.memory.value_or(0);
    if (!memory.empty()) {
        YL_TRY(options.max_memory, parse_bytes(memory, "--memory"));
    }
    if (no_cache)
        return options;
    yl::batch::CacheOptions cache_options;
    cache_options.max_bytes = settings.cache_size.value_or(cache_options.max_bytes);
    if (!cache_size.empty()) {
        YL_TRY(cache_options.max_bytes, parse_bytes(cache_size, "--cache-size"));
    }
    const std::string folder =
        !cache.empty() ? cache : settings.cache.value_or(std::string(batch_folder) + "/cache");
    YL_TRY(options.cache, yl::batch::BuildCache::open(folder, cache_options));
    const std::string shared =
        !shared_cache.empty() ? shared_cache : settings.shared_cache.value_or("");
    const yl::batch::SharedCacheOptions shared_options{.is_writable = !reads_shared};
    if (is_url(shared))
        options.shared = yl::batch::shared_server(shared, shared_options);
    else if (!shared.empty())
        options.shared = yl::batch::shared_folder(shared, shared_options);
    return options;
}

yl::Result<Exit> Batch::build(const Work& work) const {
    YL_TRY(auto options, build_options(work));
    YL_TRY(auto log_file, open_log(log));
    BatchView view(session, work.jobs, log_file);
    session.give_event({{"event", "begin"},
                        {"list", list},
                        {"folder", fs::current_path().string()},
                        {"textures", work.jobs.size()}});
    options.on_event = [&view](const yl::batch::Event& event) { view.take(event); };
    YL_TRY(const yl::batch::Summary summary, yl::batch::build(work.jobs, options));
    view.end(summary);
    // What is up to date was not shown again, but still counts.
    session.count_warnings(summary.findings -
                           std::min<std::size_t>(summary.findings, session.warnings()));
    if (!result.empty())
        YL_CHECK(write_part_result(*this, summary, work.jobs));
    if (!depfile.empty())
        YL_CHECK(write_depfile(work));
    Exit worst = Exit::done;
    for (const auto& error : summary.errors)
        if (error)
            worst = std::max(worst, exit_for(error->kind));
    if (worst == Exit::done && !stamp.empty())
        YL_CHECK(yl::write_whole_file(stamp, {}));
    return worst == Exit::done ? session.outcome() : worst;
}

yl::Status Batch::write_depfile(const Work& work) const {
    std::vector<std::string> made;
    std::set<std::string> read;
    for (const Job& job : work.jobs) {
        made.push_back(absolute(job.output));
        for (const std::string& input : job.inputs)
            read.insert(absolute(input));
        if (!job.more_inputs)
            continue;
        if (const auto more = job.more_inputs())
            for (const std::string& input : *more)
                if (std::error_code error; fs::exists(input, error))
                    read.insert(absolute(input));
    }
    for (const auto* paths : {&work.list.files, &work.list.folders})
        for (const std::string& path : *paths)
            read.insert(absolute(path));
    if (!stamp.empty())
        made = {stamp};
    std::string text;
    for (const std::string& path : made)
        text += escaped_for_make(path) + " ";
    text += ":";
    for (const std::string& path : read)
        text += " \\\n  " +
                escaped_for_make(path.ends_with('/') ? path.substr(0, path.size() - 1) : path);
    text += "\n";
    return yl::write_whole_file(depfile, std::as_bytes(std::span(text)));
}

/// All that may change what is built: folders of inputs, those that were searched, and the list's own.
std::vector<std::string> Batch::watched_folders(const Work& work) {
    std::set<std::string> folders(work.list.folders.begin(), work.list.folders.end());
    for (const Job& job : work.all_jobs)
        for (const std::string& input : job.inputs)
            folders.insert(fs::path(input).parent_path().string());
    for (const std::string& file : work.list.files)
        folders.insert(fs::path(file).parent_path().string());
    std::erase_if(folders, [](const std::string& folder) {
        std::error_code error;
        return !folder.empty() && !fs::is_directory(folder, error);
    });
    return {folders.begin(), folders.end()};
}

yl::Result<Exit> Batch::watch(std::unique_ptr<Work> work) const {
    using namespace std::chrono_literals;
    for (bool is_first = true;; is_first = false) {
        // Before anything is looked at, so that no change falls between.
        YL_TRY(auto changes, yl::batch::FolderWatch::open(watched_folders(*work)));
        if (auto again = read_work())
            work = std::move(*again);
        else
            session.complain(again.error());
        const yl::batch::BuildOptions options = plan_options();
        YL_TRY(const auto plan, yl::batch::plan(work->jobs, options));
        const bool is_done = std::ranges::all_of(plan.verdicts, [](const auto& verdict) {
            return verdict.reason == yl::batch::Reason::up_to_date;
        });
        if (is_first || !is_done) {
            YL_TRY([[maybe_unused]] const Exit exit, build(*work));
            session.say("Waiting for changes; end it with Ctrl-C.");
            std::fflush(stdout);
        }
        YL_TRY([[maybe_unused]] const auto changed, changes.wait(60ms));
    }
}

yl::Result<Exit> Batch::prune(const Work& work) const {
    const yl::batch::BuildOptions options = plan_options();
    YL_TRY(const auto plan, yl::batch::plan(work.all_jobs, options));
    for (const std::string& path : plan.changed_orphans)
        session.say(path + ": stays, as somebody changed it since it was made");
    YL_TRY(const auto gone, yl::batch::prune(work.all_jobs, options));
    for (const std::string& path : gone)
        session.say(path + ": removed");
    session.say(fmt::format("{} removed", gone.size()));
    session.give([&] { return Json({{"removed", gone}, {"kept", plan.changed_orphans}}); });
    return session.outcome();
}

yl::Result<Exit> Batch::show_list(const Work& work) const {
    Json entries = Json::array();
    for (const Job& job : work.jobs) {
        const auto entry = std::ranges::find(work.entries, job.output, &ListEntry::output);
        session.say(fmt::format("{}\n  {}", job.output, command_text(*entry)));
        entries.push_back({{"output", job.output},
                           {"target", job.target},
                           {"group", job.group},
                           {"inputs", job.inputs},
                           {"place", entry->place.text()},
                           {"command", command_text(*entry)}});
    }
    session.say(
        fmt::format("{} textures of {}", work.jobs.size(), fmt::join(work.list.files, ", ")));
    session.give([&] { return Json({{"list", list}, {"textures", entries}}); });
    return session.outcome();
}

yl::Result<Exit> Batch::show_plan(const Work& work) const {
    const yl::batch::BuildOptions options = plan_options();
    YL_TRY(const auto plan, yl::batch::plan(work.jobs, options));
    YL_TRY(const auto whole, yl::batch::plan(work.all_jobs, options));
    std::map<std::string, std::size_t> counts;
    std::size_t longest = 0;
    for (const Job& job : work.jobs)
        longest = std::max(longest, job.output.size());
    for (const auto* paths : {&whole.orphans, &whole.changed_orphans})
        for (const std::string& path : *paths)
            longest = std::max(longest, path.size());
    Json entries = Json::array();
    for (std::size_t i = 0; i < work.jobs.size(); ++i) {
        const yl::batch::Verdict& verdict = plan.verdicts[i];
        const std::string reason(yl::batch::name(verdict.reason));
        ++counts[reason];
        entries.push_back(
            {{"output", work.jobs[i].output}, {"reason", reason}, {"detail", verdict.detail}});
        if (verdict.reason != yl::batch::Reason::up_to_date)
            session.say(fmt::format("  {:<{}}  {}{}", work.jobs[i].output, longest, reason,
                                    verdict.detail.empty() ? "" : ": " + verdict.detail));
    }
    for (const auto& [paths, what] :
         {std::pair(&whole.orphans, "made no more; --prune removes it"),
          std::pair(&whole.changed_orphans, "made no more, and changed by somebody else")})
        for (const std::string& path : *paths)
            session.say(fmt::format("  {:<{}}  {}", path, longest, what));
    const std::size_t fresh = counts["up to date"];
    counts.erase("up to date");
    std::string why;
    for (const auto& [reason, count] : counts)
        why += fmt::format("{}{} {}", why.empty() ? ": " : ", ", count, reason);
    session.say(fmt::format("{} of {} textures would be built{}; {} up to date",
                            work.jobs.size() - fresh, work.jobs.size(), why, fresh));
    session.give([&] {
        return Json({{"list", list},
                     {"textures", entries},
                     {"orphans", whole.orphans},
                     {"changed_orphans", whole.changed_orphans}});
    });
    return session.outcome();
}

yl::Status Batch::refuse_several() const {
    std::string asked;
    for (const auto& [option, is_given] : {std::pair{"--list", lists},
                                           {"--dry-run", dry_run},
                                           {"--prune", prunes},
                                           {"--watch", watches},
                                           {"--submit", !engine.empty()},
                                           {"--status", shows_status},
                                           {"--join", !join.empty()}}) {
        if (is_given && !asked.empty())
            return yl::fail_at({yl::ErrorKind::usage, "it does not go with " + asked}, option);
        if (is_given)
            asked = option;
    }
    return {};
}

Facts Batch::facts_of(const Work& work) const {
    const bool only_looks = lists || dry_run || prunes;
    return when(!only_looks && engine.empty(), builds_now) | when(!engine.empty(), submits) |
           when(!no_cache, keeps_cache) |
           when(!no_cache && (!shared_cache.empty() || work.list.settings.shared_cache),
                shares_cache);
}

yl::Result<Exit> Batch::run() {
    const FolderAtEnd back;
    if (example) {
        session.say(std::string(batch_example()));
        session.give([] { return Json({{"example", batch_example()}}); });
        return Exit::done;
    }
    if (list.empty())
        return yl::fail_at({yl::ErrorKind::usage, "a list is needed; --example prints one"},
                           "LIST");
    YL_CHECK(refuse_several());
    YL_CHECK(enter_folder());
    if (shows_status)
        return show_batch_status(*this);
    if (!join.empty())
        return join_batch(*this);
    session.streams = !lists && !dry_run && !prunes && engine.empty();
    YL_TRY(auto work, read_work());
    YL_CHECK(command.refuse_options(facts_of(*work)));
    if (lists)
        return show_list(*work);
    if (dry_run)
        return show_plan(*work);
    if (prunes)
        return prune(*work);
    if (!engine.empty())
        return submit_batch(*this, *work);
    return watches ? watch(std::move(work)) : build(*work);
}

void add_batch(CLI::App& app, Session& session) {
    auto batch = std::make_shared<Batch>(
        Batch{session, Command(app, session, "batch",
                               "Build many textures from a list, only those that changed")});
    Command& command = batch->command;
    command.runs([batch] { return batch->run(); });
    command.add(
        {.rows = {{"LIST", &batch->list, "", "A list in TOML; paths in it are by its folder"}}});
    for (const OptionTable& table : batch_options(*batch))
        command.add(table);
    command.add_examples({"ylat demo -o glasshouse",
                          "ylat batch glasshouse/glasshouse.toml --dry-run",
                          "ylat batch glasshouse/glasshouse.toml --only '*slate*' --force"});
}

}  // namespace ylat
