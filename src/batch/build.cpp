#include <tbb/parallel_for.h>
#include <tbb/task_arena.h>
#include <tbb/task_group.h>

#include <algorithm>
#include <chrono>
#include <deque>
#include <new>
#include <set>
#include <thread>

#include <yl/status_macros.hpp>
#include "base/out_of_memory.hpp"
#include "batch/job_run.hpp"
#include "batch/memory_gate.hpp"
#include "batch/verdict.hpp"

namespace yl::batch {
namespace {

namespace fs = std::filesystem;

/// Runs jobs side by side: as many as there are threads and memory for, the costliest first. Threads
/// that no job is left for help the jobs under way.
class Runner {
 public:
    Runner(std::span<const Job> jobs, const BuildOptions& options, const WorkFolder& work,
           State& state, Summary& summary)
        : jobs_(jobs),
          options_(options),
          work_(work),
          state_(state),
          summary_(summary),
          gate_(options.max_memory),
          most_(static_cast<std::size_t>(tbb::this_task_arena::max_concurrency())) {}

    void run(const std::vector<std::size_t>& jobs) {
        std::vector<Waiting> waiting(jobs.size());
        tbb::parallel_for(std::size_t{0}, jobs.size(), [&](std::size_t i) {
            const Job& job = jobs_[jobs[i]];
            waiting[i] = {jobs[i], job.need ? job.need() : Need{}, 0};
        });
        std::ranges::stable_sort(
            waiting, [](const Waiting& a, const Waiting& b) { return a.need.cost > b.need.cost; });
        waiting_.assign(waiting.begin(), waiting.end());
        Event planned;
        planned.kind = Event::Kind::planned;
        planned.job = jobs.size();
        for (const Waiting& one : waiting)
            planned.cost += one.need.cost;
        tell(planned);
        {
            const std::scoped_lock lock(mutex_);
            start_more();
        }
        group_.wait();
        summary_.peak_memory = gate_.peak();
    }

 private:
    struct Waiting {
        std::size_t job = 0;
        Need need = {};
        unsigned retries = 0;  ///< somebody else was making it
    };

    /// Ever longer, since each time the inputs are looked into again.
    static std::chrono::milliseconds pause_before(unsigned retries) {
        constexpr std::chrono::milliseconds first{10}, longest{320};
        constexpr unsigned most_doublings = 5;
        return std::min(first * (1U << std::min(retries - 1, most_doublings)), longest);
    }

    /// With the lock held.
    void start_more() {
        while (under_way_ < most_) {
            const auto next = std::ranges::find_if(
                waiting_, [&](const Waiting& one) { return gate_.fits(one.need.memory); });
            if (next == waiting_.end())
                return;
            const Waiting one = *next;
            waiting_.erase(next);
            if (options_.is_cancelled && options_.is_cancelled()) {
                ++summary_.left_out;
                continue;
            }
            ++under_way_;
            gate_.take(one.need.memory);
            if (one.retries == 0)
                tell_begun(one);
            group_.run([this, one] { run_one(one); });
        }
    }

    void run_one(Waiting one) {
        const auto begun = std::chrono::steady_clock::now();
        if (one.retries > 0)
            std::this_thread::sleep_for(pause_before(one.retries));
        // What waits inside of a job takes up work of that job alone, not another one on top.
        const auto finished =
            tbb::this_task_arena::isolate([&] { return guarded_run(jobs_[one.job]); });
        const std::chrono::duration<double> taken = std::chrono::steady_clock::now() - begun;
        const std::scoped_lock lock(mutex_);
        --under_way_;
        gate_.give_back(one.need.memory);
        if (finished && finished->is_busy) {
            ++one.retries;
            waiting_.push_back(one);
        } else {
            count(one, finished, taken.count());
        }
        start_more();
    }

    /// A job that runs out of memory fails like any other.
    Result<Finished> guarded_run(const Job& job) {
        try {
            return run_job(job, options_, work_, state_);
        } catch (const std::bad_alloc&) {
            return fail_at({ErrorKind::memory, "there is not enough memory for this"}, job.output);
        }
    }

    void count(const Waiting& one, const Result<Finished>& finished, double seconds) {
        Event event;
        event.job = one.job;
        event.cost = one.need.cost;
        event.seconds = seconds;
        if (!finished) {
            ++summary_.failed;
            summary_.errors[one.job] = event.error = finished.error();
            event.kind = Event::Kind::failed;
            return tell(event);
        }
        ++(finished->source == Source::built   ? summary_.built
           : finished->source == Source::cache ? summary_.from_cache
                                               : summary_.from_shared);
        summary_.findings += finished->made.findings;
        summary_.bytes += finished->bytes;
        if (finished->remark) {
            event.kind = Event::Kind::remark;
            event.error = *finished->remark;
            tell(event);
        }
        event.kind = Event::Kind::finished;
        event.source = finished->source;
        event.bytes = finished->bytes;
        event.made = finished->made;
        tell(event);
    }

    void tell_begun(const Waiting& one) {
        Event event;
        event.job = one.job;
        event.cost = one.need.cost;
        tell(event);
    }

    void tell(const Event& event) {
        if (!options_.on_event)
            return;
        const std::scoped_lock lock(telling_);
        options_.on_event(event);
    }

    std::span<const Job> jobs_;
    const BuildOptions& options_;
    const WorkFolder& work_;
    State& state_;
    Summary& summary_;
    MemoryGate gate_;
    std::size_t most_;
    std::deque<Waiting> waiting_ = {};
    std::size_t under_way_ = 0;
    std::mutex mutex_ = {}, telling_ = {};
    tbb::task_group group_ = {};
};

}  // namespace

Result<Summary> build(std::span<const Job> jobs, const BuildOptions& options) try {
    if (options.shared != nullptr && options.cache == nullptr)
        return fail(ErrorKind::usage, "a shared cache needs one on this machine beside it");
    YL_TRY(const auto by_output, jobs_by_output(jobs));
    YL_TRY(State state, State::open(options.state, true));
    Summary summary;
    summary.errors.resize(jobs.size());
    std::vector<Verdict> verdicts(jobs.size());
    std::vector<std::optional<Known>> touched(jobs.size());
    tbb::parallel_for(std::size_t{0}, jobs.size(), [&](std::size_t i) {
        verdicts[i] = judge(jobs[i], state, options, touched[i]);
    });
    std::vector<std::size_t> to_do;
    std::set<fs::path> folders;
    for (std::size_t i = 0; i < jobs.size(); ++i) {
        if (touched[i])
            YL_CHECK(state.record(jobs[i].output, std::move(*touched[i])));
        if (verdicts[i].reason == Reason::up_to_date) {
            ++summary.up_to_date;
            summary.findings += verdicts[i].findings;
            continue;
        }
        to_do.push_back(i);
        folders.insert(fs::path(jobs[i].output).parent_path());
    }
    if (to_do.empty())
        return summary;
    for (const fs::path& folder : folders)
        remove_left_parts(folder);
    YL_TRY(const WorkFolder work, WorkFolder::create(options.work));
    Runner(jobs, options, work, state, summary).run(to_do);
    YL_CHECK(state.tidy());
    if (options.cache != nullptr) {
        YL_TRY([[maybe_unused]] const auto bytes, options.cache->trim());
    }
    return summary;
} catch (const std::bad_alloc&) {
    return out_of_memory();
}

}  // namespace yl::batch
