// One job from its inputs to its files.
#pragma once

#include "batch/state.hpp"
#include "batch/work_folder.hpp"

namespace yl::batch {

/// What became of a job.
struct Finished {
    Source source = Source::built;
    Made made = {};
    std::uint64_t bytes = 0;
    std::optional<Error> remark = {};  ///< a shared cache that does not serve
    bool is_busy = false;              ///< somebody else makes it at the moment: ask again
};

/// Finds the job's files in a cache or makes them, puts them into their places and records that.
[[nodiscard]] Result<Finished> run_job(const Job& job, const BuildOptions& options,
                                       const WorkFolder& work, State& state);

}  // namespace yl::batch
