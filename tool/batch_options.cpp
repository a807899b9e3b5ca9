// The options of ylat batch.
#include "batch.hpp"

namespace ylat {
namespace {

OptionTable what_options(Batch& batch) {
    return {"What to do",
            {{"--list", &batch.lists, "",
              "Say what would be made, and by which command; build nothing"},
             {"--dry-run", &batch.dry_run, "", "Say what would be built and why; build nothing"},
             {"--prune", &batch.prunes, "",
              "Remove files that this list made and makes no more; never what somebody changed"},
             {"--watch", &batch.watches, "", "Go on, and build again what is saved"},
             {"--example", &batch.example, "", "Print a list with comments"},
             {"--target", &batch.targets, "NAME", "This target alone; may be given again"},
             {"--only", &batch.only, "PATTERN",
              "Outputs or inputs of these names alone, with * and ?; may be given again"},
             {"--force", &batch.force, "", "Build all, whatever is known or in a cache"},
             {"--compare-contents", &batch.compares, "",
              "Look into files where size and time are as they were"}}};
}

constexpr const char* keeps_nothing = "--no-cache keeps nothing";
constexpr const char* builds_nothing = "nothing is built";

OptionTable cache_options(Batch& batch) {
    return {"Caches",
            {{"--cache",
              &batch.cache,
              "DIR",
              "Where what was built is kept (.ylat-batch/cache beside the list)",
              {.rules = {refused_without(keeps_cache, keeps_nothing)}}},
             {"--cache-size",
              &batch.cache_size,
              "BYTES",
              "The most that it holds, such as 512M or 4G (4G); what was not used for longest goes",
              {.rules = {refused_without(keeps_cache, keeps_nothing)}}},
             {"--no-cache", &batch.no_cache, "", "Keep nothing, and look nothing up"},
             {"--shared-cache",
              &batch.shared_cache,
              "DIR|URL",
              "A cache of several machines: a folder that is there, or an HTTP server that takes "
              "GET, HEAD and PUT",
              {.rules = {refused_without(keeps_cache, keeps_nothing)}}},
             {"--shared-read-only",
              &batch.reads_shared,
              "",
              "Fetch from it, and store nothing",
              {.rules = {refused_without(shares_cache, "there is no shared cache")}}}}};
}

OptionTable run_options(Batch& batch) {
    return {"Running",
            {{"--memory",
              &batch.memory,
              "BYTES",
              "The most that files under way take together, by their headers, such as 2G",
              {.rules = {refused_without(builds_now | submits, builds_nothing)}}},
             {"--log",
              &batch.log,
              "FILE",
              "Add a line for each file to this log",
              {.rules = {refused_without(builds_now, builds_nothing)}}},
             {"--depfile",
              &batch.depfile,
              "FILE",
              "Write what was read as a rule for Make and Ninja",
              {.rules = {refused_without(builds_now, builds_nothing)}}},
             {"--stamp",
              &batch.stamp,
              "FILE",
              "Touch this file once all is built; the rule's target instead of all outputs",
              {.rules = {refused_without(builds_now, builds_nothing)}}}}};
}

OptionTable cluster_options(Batch& batch) {
    return {
        "On several machines",
        {{"--shard", &batch.shard, "I/N",
          "The I-th of N parts, balanced by cost and the same on every machine"},
         {"--result",
          &batch.result,
          "FILE",
          "Write what was done as JSON, for --join",
          {.rules = {refused_without(builds_now, builds_nothing)}}},
         {"--join", &batch.join, "DIR", "One summary of the results in this folder"},
         {"--submit",
          &batch.engine,
          "slurm",
          "Submit the list as a job array, with a job behind it that joins the results",
          {.allowed = one_of({"slurm"})}},
         {"--parts",
          &batch.parts,
          "N",
          "How many parts --submit makes",
          {.allowed = in_range(1, 10000),
           .rules = {refused_without(submits, "it goes with --submit")}}},
         {"--status", &batch.shows_status, "", "How far the parts of the last submission are"}}};
}

}  // namespace

std::vector<OptionTable> batch_options(Batch& batch) {
    return {what_options(batch), cache_options(batch), run_options(batch), cluster_options(batch)};
}

}  // namespace ylat
