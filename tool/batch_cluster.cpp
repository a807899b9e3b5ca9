// ylat batch on a cluster: parts, their results, and an engine's job array. Nothing is scheduled here.
#include <fcntl.h>
#include <fmt/format.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <charconv>
#include <ctime>
#include <filesystem>
#include <map>

#include <yl/status_macros.hpp>

#include "batch.hpp"
#include "batch_view.hpp"
#include "describe.hpp"

extern char** environ;

namespace ylat {
namespace {

namespace fs = std::filesystem;

std::string quoted_for_shell(const std::string& word) {
    std::string text = "'";
    for (const char letter : word)
        text += letter == '\'' ? "'\\''" : std::string(1, letter);
    return text + "'";
}

yl::Status write_text(const fs::path& path, const std::string& text) {
    return yl::write_whole_file(path, std::as_bytes(std::span(text)));
}

yl::Result<Json> read_json(const fs::path& path) {
    YL_TRY(const yl::Buffer bytes, yl::read_whole_file(path));
    Json json =
        Json::parse(std::string_view(reinterpret_cast<const char*>(bytes.data()), bytes.size()),
                    nullptr, false);
    if (json.is_discarded())
        return yl::fail_at({yl::ErrorKind::malformed, "is no JSON"}, path.string());
    return json;
}

/// What a program prints; an error where it is not there or fails.
yl::Result<std::string> output_of(std::vector<std::string> words) {
    int ends[2];
    if (::pipe(ends) != 0)
        return yl::fail(yl::ErrorKind::io, "cannot make a pipe");
    posix_spawn_file_actions_t actions;
    ::posix_spawn_file_actions_init(&actions);
    ::posix_spawn_file_actions_adddup2(&actions, ends[1], STDOUT_FILENO);
    ::posix_spawn_file_actions_addclose(&actions, ends[0]);
    std::vector<char*> arguments;
    for (std::string& word : words)
        arguments.push_back(word.data());
    arguments.push_back(nullptr);
    pid_t child = 0;
    const int failed =
        ::posix_spawnp(&child, arguments[0], &actions, nullptr, arguments.data(), environ);
    ::posix_spawn_file_actions_destroy(&actions);
    ::close(ends[1]);
    std::string text;
    char piece[4096];
    for (ssize_t got = 0; failed == 0 && (got = ::read(ends[0], piece, sizeof piece)) > 0;)
        text.append(piece, static_cast<std::size_t>(got));
    ::close(ends[0]);
    int status = 0;
    if (failed == 0)
        ::waitpid(child, &status, 0);
    if (failed != 0 || status != 0)
        return yl::fail_at({yl::ErrorKind::io,
                            failed != 0 ? "cannot be run; is it installed?" : "the program failed"},
                           words[0]);
    return text;
}

fs::path runs_folder(const Batch& batch) {
    return fs::path(batch_folder) / "runs" / fs::path(batch.list).stem();
}

/// The submission that was made last; names sort by time.
yl::Result<fs::path> last_run(const Batch& batch) {
    std::vector<fs::path> runs;
    std::error_code error;
    for (fs::directory_iterator at(runs_folder(batch), error), end; !error && at != end;
         at.increment(error))
        runs.push_back(at->path());
    if (runs.empty())
        return yl::fail_at({yl::ErrorKind::missing, "nothing was submitted yet"}, batch.list);
    return *std::ranges::max_element(runs);
}

std::string part_name(std::uint32_t part) {
    return fmt::format("part-{}.json", part);
}

/// The options that mean the same to every part.
std::string options_for_parts(const Batch& batch) {
    std::string text;
    const auto add = [&text](const char* option, const std::string& value) {
        if (!value.empty())
            text += fmt::format(" {}={}", option, quoted_for_shell(value));
    };
    for (const std::string& target : batch.targets)
        add("--target", target);
    for (const std::string& pattern : batch.only)
        add("--only", pattern);
    add("--cache", batch.cache);
    add("--cache-size", batch.cache_size);
    add("--shared-cache", batch.shared_cache);
    add("--memory", batch.memory);
    for (const auto& [option, is_given] : {std::pair{" --force", batch.force},
                                           {" --compare-contents", batch.compares},
                                           {" --no-cache", batch.no_cache},
                                           {" --shared-read-only", batch.reads_shared}})
        text += is_given ? option : "";
    if (batch.session.threads > 0)
        text += fmt::format(" --threads={}", batch.session.threads);
    return text;
}

/// Codes up to this one are ours: the part ran, and its result says what failed.
constexpr int last_own_code = 5;
constexpr int most_restarts = 3;

std::string part_script(const Batch& batch, const std::string& program, const fs::path& run,
                        std::uint32_t parts) {
    return fmt::format(R"(#!/bin/sh
#SBATCH --requeue
# One part of {list}. A part that was killed is queued again; one that failed says so in its result.
cd {folder} || exit 4
{program} batch {list} --quiet --shard "$SLURM_ARRAY_TASK_ID/{parts}" --result {run}/"part-$SLURM_ARRAY_TASK_ID.json"{options}
code=$?
if [ $code -gt {own} ] && [ "${{SLURM_RESTART_COUNT:-0}}" -lt {restarts} ]; then
  scontrol requeue "${{SLURM_ARRAY_JOB_ID}}_$SLURM_ARRAY_TASK_ID"
fi
exit $code
)",
                       fmt::arg("list", quoted_for_shell(batch.list)),
                       fmt::arg("folder", quoted_for_shell(fs::current_path().string())),
                       fmt::arg("program", program), fmt::arg("parts", parts),
                       fmt::arg("run", quoted_for_shell(run.string())),
                       fmt::arg("options", options_for_parts(batch)),
                       fmt::arg("own", last_own_code), fmt::arg("restarts", most_restarts));
}

std::string join_script(const Batch& batch, const std::string& program, const fs::path& run) {
    return fmt::format("#!/bin/sh\ncd {} || exit 4\nexec {} batch {} --join {}\n",
                       quoted_for_shell(fs::current_path().string()), program,
                       quoted_for_shell(batch.list), quoted_for_shell(run.string()));
}

/// "123" or "123;cluster", as sbatch prints with --parsable.
std::string job_number(const std::string& printed) {
    return printed.substr(0, printed.find_first_of(";\n"));
}

/// What is known of each part that the engine still has, as "RUNNING on n2".
std::map<std::uint32_t, std::string> engine_states(const std::string& job) {
    std::map<std::uint32_t, std::string> states;
    const auto printed = output_of({"squeue", "-h", "-r", "-j", job, "-o", "%K %T %N"});
    if (!printed)
        return states;  // the engine forgets jobs that ended
    for (std::size_t at = 0; at < printed->size();) {
        const std::size_t end = std::min(printed->find('\n', at), printed->size());
        const std::string line = printed->substr(at, end - at);
        std::uint32_t part = 0;
        const auto [rest, error] = std::from_chars(line.data(), line.data() + line.size(), part);
        if (error == std::errc{}) {
            std::string state(rest + 1, line.data() + line.size());
            const std::size_t space = state.find(' ');
            const std::string node = space == std::string::npos ? "" : state.substr(space + 1);
            state = state.substr(0, space);
            std::ranges::transform(state, state.begin(), [](unsigned char letter) {
                return static_cast<char>(std::tolower(letter));
            });
            states[part] = node.empty() ? state : state + " on " + node;
        }
        at = end + 1;
    }
    return states;
}

/// Takes over what a part knows of its outputs, for runs without parts.
yl::Status merge_state(const Batch& batch, std::uint32_t part, std::uint32_t parts) {
    Batch of_part{batch.session, batch.command};
    of_part.list = batch.list;
    of_part.shard = fmt::format("{}/{}", part, parts);
    std::error_code error;
    if (!fs::exists(of_part.state_path(), error))
        return {};
    YL_TRY(const yl::Buffer more, yl::read_whole_file(of_part.state_path()));
    const std::string whole = batch.state_path();
    std::string text;
    if (fs::exists(whole, error)) {
        YL_TRY(const yl::Buffer known, yl::read_whole_file(whole));
        text.assign(reinterpret_cast<const char*>(known.data()), known.size());
    }
    text.append(reinterpret_cast<const char*>(more.data()), more.size());
    return write_text(whole, text);
}

}  // namespace

yl::Result<std::pair<std::uint32_t, std::uint32_t>> parse_shard(const std::string& text) {
    std::uint32_t part = 0, parts = 0;
    const char* const end = text.data() + text.size();
    const auto first = std::from_chars(text.data(), end, part);
    if (first.ec == std::errc{} && first.ptr != end && *first.ptr == '/') {
        const auto second = std::from_chars(first.ptr + 1, end, parts);
        if (second.ec == std::errc{} && second.ptr == end && part >= 1 && part <= parts)
            return std::pair(part, parts);
    }
    return yl::fail_at({yl::ErrorKind::usage,
                        fmt::format("'{}' is not understood; it takes a part and how many there "
                                    "are, such as 2/4",
                                    text)},
                       "--shard");
}

yl::Status write_part_result(const Batch& batch, const yl::batch::Summary& summary,
                             std::span<const yl::batch::Job> jobs) {
    Json result = summary_json(summary, jobs);
    result["list"] = batch.list;
    result["part"] = batch.shard;
    return write_text(batch.result, result.dump(2, ' ', false, Json::error_handler_t::replace));
}

yl::Result<Exit> submit_batch(const Batch& batch, const Batch::Work& work) {
    const std::uint32_t parts = std::min(batch.parts, static_cast<std::uint32_t>(work.jobs.size()));
    const fs::path folder =
        fs::absolute(runs_folder(batch)) / fmt::format("{:012}-{}", std::time(nullptr), ::getpid());
    std::error_code error;
    fs::create_directories(folder, error);
    if (error)
        return yl::fail_at({yl::ErrorKind::io, "cannot make the folder: " + error.message()},
                           folder.string());
    const std::string program =
        quoted_for_shell(fs::read_symlink("/proc/self/exe", error).string());
    YL_CHECK(write_text(folder / "part.sh", part_script(batch, program, folder, parts)));
    YL_CHECK(write_text(folder / "join.sh", join_script(batch, program, folder)));
    YL_TRY(const std::string array,
           output_of({"sbatch", "--parsable", fmt::format("--array=1-{}", parts), "--requeue",
                      "--output=" + (folder / "part-%a.log").string(), "--open-mode=append",
                      (folder / "part.sh").string()}));
    const std::string job = job_number(array);
    YL_TRY(
        const std::string last,
        output_of({"sbatch", "--parsable", "--dependency=afterany:" + job,
                   "--output=" + (folder / "join.log").string(), (folder / "join.sh").string()}));
    const Json run = {{"list", batch.list},
                      {"engine", batch.engine},
                      {"parts", parts},
                      {"textures", work.jobs.size()},
                      {"job", job},
                      {"join_job", job_number(last)},
                      {"folder", folder.string()}};
    YL_CHECK(write_text(folder / "run.json", run.dump(2)));
    batch.session.say(
        fmt::format("{} textures in {} parts: job {}, joined by job {}; results go to {}",
                    work.jobs.size(), parts, job, job_number(last), folder.string()));
    batch.session.give([&] { return run; });
    return Exit::done;
}

yl::Result<Exit> show_batch_status(const Batch& batch) {
    YL_TRY(const fs::path folder, last_run(batch));
    YL_TRY(const Json run, read_json(folder / "run.json"));
    const auto parts = run.value("parts", 0U);
    const auto states = engine_states(run.value("job", ""));
    Json shown = Json::array();
    for (std::uint32_t part = 1; part <= parts; ++part) {
        std::string state = "waiting for its result";
        const auto engine = states.find(part);
        const auto result = read_json(folder / part_name(part));
        if (result)
            state =
                fmt::format("ended: {} built, {} from caches, {} up to date, {} failed",
                            result->value("built", 0),
                            result->value("from_cache", 0) + result->value("from_shared_cache", 0),
                            result->value("up_to_date", 0), result->value("failed", 0));
        else if (engine != states.end())
            state = engine->second;
        else
            state = "gone without a result";
        batch.session.say(fmt::format("part {} of {}: {}", part, parts, state));
        shown.push_back({{"part", part}, {"state", state}});
    }
    std::error_code error;
    const bool is_joined = fs::exists(folder / "summary.json", error);
    batch.session.say(is_joined ? fmt::format("joined: {}", (folder / "summary.json").string())
                                : "not joined yet");
    batch.session.give([&] {
        return Json({{"run", run}, {"parts", shown}, {"is_joined", is_joined}});
    });
    return Exit::done;
}

yl::Result<Exit> join_batch(const Batch& batch) {
    const fs::path folder = batch.join;
    YL_TRY(const Json run, read_json(folder / "run.json"));
    const auto parts = run.value("parts", 0U);
    Json whole = {
        {"list", batch.list}, {"errors", Json::array()}, {"missing_parts", Json::array()}};
    for (std::uint32_t part = 1; part <= parts; ++part) {
        const auto result = read_json(folder / part_name(part));
        if (!result) {
            whole["missing_parts"].push_back(part);
            batch.session.say(fmt::format("part {} left no result", part));
            continue;
        }
        for (const char* count : {"textures", "built", "from_cache", "from_shared_cache",
                                  "up_to_date", "failed", "left_out", "findings", "bytes"})
            whole[count] =
                whole.value(count, std::uint64_t{0}) + result->value(count, std::uint64_t{0});
        for (const Json& error : result->value("errors", Json::array())) {
            whole["errors"].push_back(error);
            batch.session.say(fmt::format("{}: {}", error.value("output", ""),
                                          error["error"].value("sentence", "")));
        }
        YL_CHECK(merge_state(batch, part, parts));
    }
    YL_CHECK(write_text(folder / "summary.json", whole.dump(2)));
    const auto count = [&whole](const char* name) { return whole.value(name, std::uint64_t{0}); };
    batch.session.say(fmt::format(
        "{} of {} textures in {} parts: {} built, {} from caches, {} up to date, {} failed; {}",
        count("textures"), run.value("textures", 0), parts, count("built"),
        count("from_cache") + count("from_shared_cache"), count("up_to_date"), count("failed"),
        byte_text(count("bytes"))));
    batch.session.give([&] { return whole; });
    const bool is_whole = whole["missing_parts"].empty() && count("failed") == 0;
    return is_whole ? Exit::done : Exit::bad_input;
}

}  // namespace ylat
