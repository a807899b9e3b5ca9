#include <fmt/format.h>

#include <algorithm>
#include <numeric>
#include <queue>

#include <yl/batch.hpp>
#include "batch/verdict.hpp"

namespace yl::batch {

Result<std::vector<std::size_t>> shard(std::span<const Job> jobs, std::uint32_t part,
                                       std::uint32_t parts) {
    if (part < 1 || part > parts)
        return fail(ErrorKind::usage, fmt::format("there is no part {} of {}", part, parts));
    std::vector<double> costs;
    for (const Job& job : jobs)
        costs.push_back(job.need ? job.need().cost : 1);
    std::vector<std::size_t> order(jobs.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::ranges::sort(order, [&](std::size_t a, std::size_t b) {
        return costs[a] != costs[b] ? costs[a] > costs[b] : jobs[a].output < jobs[b].output;
    });
    // The costliest that is left goes to the part with the least: at most a third above the best.
    using Load = std::pair<double, std::uint32_t>;
    std::priority_queue<Load, std::vector<Load>, std::greater<>> loads;
    for (std::uint32_t i = 1; i <= parts; ++i)
        loads.push({0, i});
    std::vector<std::size_t> mine;
    for (const std::size_t job : order) {
        const auto [load, least] = loads.top();
        loads.pop();
        loads.push({load + costs[job], least});
        if (least == part)
            mine.push_back(job);
    }
    std::ranges::sort(mine);
    return mine;
}

}  // namespace yl::batch
