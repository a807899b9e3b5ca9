// The command batch: what was given, and what it does with that.
#pragma once

#include "batch_jobs.hpp"

namespace ylat {

enum BatchFact : Facts {
    builds_now = 1U << 0U,
    submits = 1U << 1U,
    keeps_cache = 1U << 2U,
    shares_cache = 1U << 3U,
};

struct Batch {
    Session& session;
    Command command;
    std::string list = {};
    std::vector<std::string> targets = {}, only = {};
    bool lists = false, dry_run = false, example = false;
    bool force = false, compares = false, prunes = false, watches = false;
    std::string cache = {}, cache_size = {}, shared_cache = {}, memory = {};
    bool no_cache = false, reads_shared = false;
    std::string log = {}, depfile = {}, stamp = {};
    std::string shard = {}, result = {}, engine = {}, join = {};
    std::uint32_t parts = 4;
    bool shows_status = false;

    /// The list as it was read, and what is to be built of it.
    struct Work {
        yl::batch::List list = {};
        std::vector<yl::batch::ListEntry> entries = {};  ///< jobs point to them
        std::vector<yl::batch::Job> all_jobs = {};
        std::vector<yl::batch::Job> jobs =
            {};  ///< of the targets, names and part that are asked for
    };

    yl::Result<Exit> run();
    /// An error where several things are asked for at once.
    yl::Status refuse_several() const;
    [[nodiscard]] Facts facts_of(const Work& work) const;
    /// Goes to the list's folder; options that name files are made to mean what they meant before.
    yl::Status enter_folder();
    yl::Result<std::unique_ptr<Work>> read_work() const;
    /// For what only looks: no folder is made.
    yl::batch::BuildOptions plan_options() const;
    yl::Result<yl::batch::BuildOptions> build_options(const Work& work) const;
    [[nodiscard]] std::string state_path() const;
    yl::Result<Exit> build(const Work& work) const;
    [[nodiscard]] static std::vector<std::string> watched_folders(const Work& work);
    /// Builds again and again, until the program is ended.
    yl::Result<Exit> watch(std::unique_ptr<Work> work) const;
    yl::Result<Exit> prune(const Work& work) const;
    yl::Result<Exit> show_list(const Work& work) const;
    yl::Result<Exit> show_plan(const Work& work) const;
    yl::Status write_depfile(const Work& work) const;
};

/// The folder beside a list that holds what is known of it.
inline constexpr const char* batch_folder = ".ylat-batch";

/// All but LIST.
[[nodiscard]] std::vector<OptionTable> batch_options(Batch& batch);

// batch_cluster.cpp
/// Makes and submits a job for each part, and one that joins their results.
[[nodiscard]] yl::Result<Exit> submit_batch(const Batch& batch, const Batch::Work& work);
/// How far the parts of the last submission are.
[[nodiscard]] yl::Result<Exit> show_batch_status(const Batch& batch);
/// One summary of the results of all parts in a folder.
[[nodiscard]] yl::Result<Exit> join_batch(const Batch& batch);
/// "2/4"
[[nodiscard]] yl::Result<std::pair<std::uint32_t, std::uint32_t>> parse_shard(
    const std::string& text);
/// Writes what a part did, for `join_batch`.
[[nodiscard]] yl::Status write_part_result(const Batch& batch, const yl::batch::Summary& summary,
                                           std::span<const yl::batch::Job> jobs);

// batch_example.cpp
[[nodiscard]] std::string_view batch_example();

}  // namespace ylat
