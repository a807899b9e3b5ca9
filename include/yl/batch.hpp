// Many files made of many others, and only those made again whose inputs or settings changed. Needs
// YellowLattice::batch.
//
//     yl::batch::Job job = {.output = "wall.ktx2", .inputs = {"wall.png"}};
//     job.make = [](const std::filesystem::path& output) -> yl::Result<yl::batch::Made> {
//         YL_TRY(const yl::Baked baked, yl::bake_file("wall.png"));
//         YL_CHECK(yl::write_texture(output.string(), baked.texture));
//         return yl::batch::Made{};
//     };
//     const std::array jobs = {job};
//     yl::batch::Summary done = yl::or_exit(yl::batch::build(jobs, {.state = "walls.state"}));
//     // done.built is 1; the next time it is 0, and done.up_to_date 1
#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>
#include <yl/api.hpp>
#include <yl/build_cache.hpp>
#include <yl/result.hpp>

namespace yl::batch {

/// An option and its value, or an algorithm and its version.
struct Setting {
    std::string name = {}, value = {};
    friend bool operator==(const Setting&, const Setting&) = default;
};

/// What a job takes, by its inputs' headers.
struct Need {
    std::uint64_t memory = 0;  ///< bytes at its peak; 0: unknown
    double cost = 1;           ///< in any unit, the same for all jobs; the costliest begin first
};

/// What was made beside the files.
struct Made {
    std::string report = {};  ///< kept with the files, and given again when they come from a cache
    std::uint32_t findings = 0;  ///< how many warnings the report holds
};

/// One file to make, or several: all that `make` writes into the folder of its output.
struct Job {
    std::string output = {};  ///< a file's path, by which the job is known
    std::string group = {}, target = {};
    std::vector<std::string> inputs = {};  ///< files that are read; their order counts
    std::vector<Setting> settings = {};    ///< all that decides the bytes besides the inputs
    std::vector<Setting> versions = {};    ///< of the algorithms that make them
    std::function<Need()> need = {};       ///< may be empty; called once at most, by any thread
    /// Files that the inputs name, such as a model's images; may be empty. Those that are not there
    /// count as well: the job is done again once they are.
    std::function<Result<std::vector<std::string>>()> more_inputs = {};
    /// Writes a file of the output's name into a folder that holds nothing else. Called by any thread,
    /// several jobs at once.
    std::function<Result<Made>(const std::filesystem::path& output)> make = {};
};

/// Why a job is done, or is not.
enum class Reason : std::uint8_t {
    up_to_date,
    is_new,            ///< nothing is known of it
    input_changed,     ///< the content of a file, not its time
    settings_changed,  ///< or there are other inputs
    encoder_changed,   ///< another version of an algorithm
    output_missing,
    output_changed,  ///< by somebody else
    forced,
};

/// "up to date", "input changed" ...
[[nodiscard]] YL_API std::string_view name(Reason reason);

/// Where a finished job's files came from.
enum class Source : std::uint8_t { built, cache, shared_cache };

/// "built", "cache" or "shared cache".
[[nodiscard]] YL_API std::string_view name(Source source);

/// How a job was done when it was done last.
struct LastTime {
    Source source = Source::built;
    double seconds = 0;                    ///< that it took to build, or to fetch
    std::vector<std::string> inputs = {};  ///< the files that it was made of
};

/// Whether a job would be done, and why.
struct Verdict {
    Reason reason = Reason::up_to_date;
    std::string detail = {};            ///< which input, option or output, and what became of it
    std::uint32_t findings = 0;         ///< of what is up to date, as it was made
    std::optional<LastTime> last = {};  ///< of what was done before; `plan` alone fills it in
};

/// Told while jobs run; from any thread, but never two at once.
struct Event {
    /// First of all `planned`, with the number of jobs to do as `job` and their whole cost.
    enum class Kind : std::uint8_t {
        planned,
        started,
        finished,
        failed,
        remark
    } kind = Kind::started;
    std::size_t job = 0;  ///< index
    double cost = 0;      ///< of the job
    Source source = Source::built;
    double seconds = 0;
    std::uint64_t bytes = 0;  ///< of its files
    Made made = {};
    Error error = {};  ///< of what failed, or what is remarked on
};

/// How jobs are done.
struct BuildOptions {
    /// What is known from earlier runs: a file, made with its folder where it is not there. Without it
    /// every job is done.
    std::filesystem::path state = {};
    std::shared_ptr<const BuildCache> cache = {};    ///< may be null
    std::shared_ptr<const SharedCache> shared = {};  ///< may be null; needs `cache`
    /// Where files are made before they go into their places; a folder of its own in the temporary one
    /// when empty.
    std::filesystem::path work = {};
    std::uint64_t max_memory = 0;   ///< of all jobs under way, by `Job::need`; 0: no bound
    bool force = false;             ///< do all, whatever is known
    bool compare_contents = false;  ///< of inputs and outputs, not their sizes and times
    std::function<void(const Event&)> on_event = {};
    /// Asked before each job; true leaves out what has not begun.
    std::function<bool()> is_cancelled = {};
};

/// What a build would do.
struct Plan {
    std::vector<Verdict> verdicts = {};  ///< one for each job
    /// Files of jobs that are no longer there, as far as nobody changed them since.
    std::vector<std::string> orphans = {};
    std::vector<std::string> changed_orphans = {};  ///< those that somebody changed
};

/// What a build did: numbers of jobs, first of all.
struct Summary {
    /// Each job is one of these.
    std::size_t up_to_date = 0, built = 0, from_cache = 0, from_shared = 0, failed = 0,
                left_out = 0;
    std::uint32_t findings = 0;     ///< of all jobs, those that are up to date included
    std::uint64_t bytes = 0;        ///< of files that were made or fetched
    std::uint64_t peak_memory = 0;  ///< the largest sum of needs under way at once
    std::vector<std::optional<Error>> errors = {};  ///< one for each job
};

/// Says why each job would be done. Two jobs with one output fail with `ErrorKind::usage`.
[[nodiscard]] YL_API Result<Plan> plan(std::span<const Job> jobs, const BuildOptions& options);

/// Does what is not up to date, in parallel in the caller's oneTBB arena. A job that fails does not
/// stop the others: its error is in the summary. Files come into their places whole or not at all, and
/// what is done is known to the next run even if this one is killed.
[[nodiscard]] YL_API Result<Summary> build(std::span<const Job> jobs, const BuildOptions& options);

/// Removes the plan's orphans, and what is known of them; never a file that somebody changed. Gives the
/// names of those that are gone.
[[nodiscard]] YL_API Result<std::vector<std::string>> prune(std::span<const Job> jobs,
                                                            const BuildOptions& options);

/// Which jobs belong to part `part` of `parts`, counted from 1: balanced by cost, and the same on every
/// machine that has the same jobs and costs. Fails with `ErrorKind::usage` for a part that is not there.
[[nodiscard]] YL_API Result<std::vector<std::size_t>> shard(std::span<const Job> jobs,
                                                            std::uint32_t part,
                                                            std::uint32_t parts);

}  // namespace yl::batch
