// Whether a job has to be done, and why.
#pragma once

#include "batch/state.hpp"

namespace yl::batch {

/// `changed` is set where files were touched without another content: what is known of them now.
[[nodiscard]] Verdict judge(const Job& job, const State& state, const BuildOptions& options,
                            std::optional<Known>& touched);

/// The jobs' outputs by their index; fails where two are the same.
[[nodiscard]] Result<std::map<std::string, std::size_t>> jobs_by_output(std::span<const Job> jobs);

}  // namespace yl::batch
