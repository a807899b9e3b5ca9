// The entries of a batch list as jobs.
#pragma once

#include "batch_kinds.hpp"

namespace ylat {

/// Paths of a list and of its jobs are by the list's folder, which is the current one then.
[[nodiscard]] std::vector<yl::batch::Job> batch_jobs(
    const std::vector<yl::batch::ListEntry>& entries);

/// What an entry takes: memory at its peak, and how long in comparison to others.
[[nodiscard]] yl::batch::Need batch_need(const yl::batch::ListEntry& entry);

}  // namespace ylat
